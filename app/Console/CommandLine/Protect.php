<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Instance;
use App\Kinds\Kinds;
use App\Kinds\MakingOrder;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\Protection;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Protect extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('protect')
            ->setDescription('Makes a set of a folder tree, a database server or a machine, and catalogs it')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload; with --source it is made if there is none')
            ->addOption('level', null, InputOption::VALUE_REQUIRED, 'full, diff, incr, or 0 to 9; of a database full or log', 'incr')
            ->addOption('new-history', null, InputOption::VALUE_NONE, 'the source was rebuilt: begin a new history, with a full')
            ->addOption(
                'before',
                null,
                InputOption::VALUE_REQUIRED,
                'a command that brings the source to rest, as a JSON list of arguments; in a machine its agent runs it',
            )
            ->addOption('after', null, InputOption::VALUE_REQUIRED, 'a command that lets it go on, likewise')
            ->addOption('limit', null, InputOption::VALUE_REQUIRED, 'seconds after which either is ended', '60')
            ->addOption('store', null, InputOption::VALUE_REQUIRED, 'the store it is written to', 'boathouse');
        $this->addOptionsOfKinds();
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $level = Level::of((string) $input->getOption('level'));
        $workload = $this->workloadOrNew($input);
        $name = (string) $input->getOption('store');
        $store = Store::query()->where('name', $name)->first();
        if ($store === null && $name === 'boathouse') {
            $store = Store::query()
                ->create(['name' => $name, 'site' => 'boathouse', 'root' => Instance::folder('stores/boathouse')])
                ->refresh(); // with what it is by itself
        }
        $store ??= self::knownStore($name);
        $set = Protection::make(
            $workload,
            new MakingOrder(
                $store,
                $level,
                null,
                fn (int $members) => $this->progress(number_format($members).' members cataloged'),
                (bool) $input->getOption('new-history'),
                self::command($input->getOption('before')),
                self::command($input->getOption('after')),
                max(1, (int) $input->getOption('limit')),
            ),
        );
        $this->endProgress();
        $this->answer(
            [
                'set' => $set->name,
                'level' => $set->level,
                'captured_at' => $set->captured_at->format('Y-m-d\TH:i:s\Z'),
                'base' => $set->base?->name,
                'bytes' => $set->bytes,
                'entries' => $set->entries,
                'consistency' => $set->consistency,
                'commands' => $set->commands ?? [],
                'remarks' => $set->remarks ?? [],
            ],
            fn (): array => [
                sprintf(
                    '%s: %s, %s in the archive.',
                    $set->name,
                    Words::count($set->entries, Kinds::of($workload)->unit($set)),
                    Words::size($set->bytes),
                ),
                ...$set->remarks ?? [],
            ],
        );

        return self::DONE;
    }

    private function workloadOrNew(InputInterface $input): Workload
    {
        $name = (string) $input->getArgument('name');
        $known = Workload::query()->where('name', $name)->first();
        foreach (Kinds::all() as $kind) {
            $said = $kind->terminal()->sourceSaid($input, $name, $known);
            if ($said !== null) {
                return $said;
            }
        }

        return $known ??
            throw new InvalidArgumentException(
                "There is no workload named \"$name\"; name its folder with --source to begin protecting it.",
            );
    }
}
