<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Metal\MetalSources;
use App\Kinds\Machines\Own\OwnMachine;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `own-machines`: who may bring which machine onto other disks themselves. */
final class OwnMachinesCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('own-machines')
            ->setDescription('Lets people bring a machine of theirs onto other disks themselves, with a recovery medium')
            ->addArgument('what', InputArgument::REQUIRED, 'allow, end, or list')
            ->addArgument('name', InputArgument::OPTIONAL, 'the machine')
            ->addOption('person', null, InputOption::VALUE_REQUIRED, 'allow, end: the address by which they sign in')
            ->addOption('group', null, InputOption::VALUE_REQUIRED, 'allow, end: all who see this group, instead')
            ->addOption('once', null, InputOption::VALUE_NONE, 'allow: good for one order');
    }

    protected function changes(InputInterface $input): bool
    {
        return $input->getArgument('what') !== 'list';
    }

    protected function carryOut(InputInterface $input): int
    {
        match ($input->getArgument('what')) {
            'list' => $this->list(),
            'allow' => $this->allow($input),
            'end' => $this->end($input),
            default => throw new InvalidArgumentException('It is "own-machines allow", "end" or "list".'),
        };

        return self::DONE;
    }

    private function list(): void
    {
        $all = OwnMachine::query()->with('workload', 'user')->orderBy('id')->get();
        $this->answer(['own_machines' => $all->map(fn (OwnMachine $one): array => [
            'workload' => $one->workload->name, 'person' => $one->user?->email, 'group' => $one->group, 'once' => $one->once,
            'used_by' => $one->run_id, 'used_at' => $one->used_at?->format('Y-m-d\TH:i:s\Z'),
        ])->all()], fn (): array => $all->isEmpty()
            ? ['Nobody may: own-machines allow NAME --person=ADDRESS']
            : $all->map(fn (OwnMachine $one): string => ucfirst($one->words()).'.')->all());
    }

    private function allow(InputInterface $input): void
    {
        $workload = self::machine($input);
        $one = OwnMachine::query()->create([
            'workload_id' => $workload->id, 'once' => (bool) $input->getOption('once'),
        ] + self::whose($input));
        $said = ucfirst($one->refresh()->words()).'.';
        TrailEntry::add($said, null, null, workload: $workload, sort: TrailSort::Rule);
        $this->answer(['workload' => $workload->name, 'allowed' => true, 'once' => $one->once], fn (): array => [$said]);
    }

    /** What was used stays in the list. */
    private function end(InputInterface $input): void
    {
        $workload = self::machine($input);
        $ended = OwnMachine::query()->where(['workload_id' => $workload->id] + self::whose($input))->whereNull('used_at')->get();
        $ended->isNotEmpty() || throw new InvalidArgumentException('Nobody was allowed that, or it was used.');
        foreach ($ended as $one) {
            TrailEntry::add("No more: {$one->words()}.", null, null, workload: $workload, sort: TrailSort::Rule);
            $one->delete();
        }
        $this->answer(['workload' => $workload->name, 'ended' => $ended->count()], fn (): array => ['That is over.']);
    }

    private static function machine(InputInterface $input): Workload
    {
        $name = (string) $input->getArgument('name');

        return MetalSources::machine($name) ?? throw new InvalidArgumentException("There is no machine \"$name\".");
    }

    /** @return array{user_id: int|null, group: string|null} */
    private static function whose(InputInterface $input): array
    {
        [$person, $group] = [$input->getOption('person'), $input->getOption('group')];
        ($person === null) !== ($group === null) || throw new InvalidArgumentException('Say who: --person=ADDRESS, or --group=GROUP.');
        $user = $person === null ? null : User::query()->where('email', $person)->first()
            ?? throw new InvalidArgumentException("Nobody signs in as \"$person\".");

        return ['user_id' => $user?->id, 'group' => $group === null ? null : mb_strcut((string) $group, 0, 100)];
    }
}
