<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Console\CommandLine\NoServer;
use App\Hosts\HostCommand;
use App\Kinds\Machines\Machines;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Snapshots\SnapshotRule;
use App\Kinds\Machines\Snapshots\SourceSnapshots;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\Workload;
use App\Sets\CannotRegister;
use InvalidArgumentException;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\SnapshotSeen;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Machines as they were a short while ago, kept at their own storage. */
final class SnapshotCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('snapshot')
            ->setDescription('Keeps a machine as it is at its own storage, by hand or every few minutes; makes sets of what is kept there')
            ->addArgument('what', InputArgument::REQUIRED, 'list, take, drop, keep (make a set of one), or rule')
            ->addArgument('workload', InputArgument::REQUIRED, 'the workload that is the machine')
            ->addArgument('snapshot', InputArgument::OPTIONAL, 'the name of one, as "list" has it')
            ->addOption('every', null, InputOption::VALUE_REQUIRED, 'with "rule": minutes between two')
            ->addOption('keep', null, InputOption::VALUE_REQUIRED, 'with "rule": how many stay')
            ->addOption('command-after', null, InputOption::VALUE_REQUIRED, 'with "rule": run once one is ready; a JSON list of arguments')
            ->addOption('off', null, InputOption::VALUE_NONE, 'with "rule": none are taken any more; those there are stay');
    }

    protected function changes(InputInterface $input): bool
    {
        return $input->getArgument('what') !== 'list';
    }

    protected function carryOut(InputInterface $input): int
    {
        $name = (string) $input->getArgument('workload');
        $workload = Workload::query()->where(['name' => $name, 'kind' => Machines::NAME])->first()
            ?? throw new InvalidArgumentException("There is no machine \"$name\" among the workloads.");
        try {
            match ($input->getArgument('what')) {
                'list' => $this->list($workload),
                'take' => $this->take($workload),
                'drop' => $this->drop($workload, self::named($input)),
                'keep' => $this->keep($workload, self::named($input)),
                'rule' => $this->rule($workload, $input),
                default => throw new InvalidArgumentException('It is "snapshot list", "take", "drop", "keep" or "rule", and the machine.'),
            };
        } catch (HypervisorFailure $failure) {
            throw $failure->isSilent
                ? new NoServer($failure->getMessage())
                : new InvalidArgumentException(ucfirst($failure->getMessage()).'.');
        } catch (CannotBring|CannotRegister $cannot) {
            return $this->blocked($cannot->getMessage());
        }

        return self::DONE;
    }

    private static function named(InputInterface $input): string
    {
        return (string) ($input->getArgument('snapshot')
            ?? throw new InvalidArgumentException('Name the snapshot, as "snapshot list" has it.'));
    }

    private function list(Workload $workload): void
    {
        $all = (new SourceSnapshots($workload))->all();
        $rule = SnapshotRule::of($workload);
        $told = array_map(fn (string $name, SnapshotSeen $one): array => [
            'name' => $name, 'at' => gmdate('Y-m-d\TH:i:s\Z', $one->at), 'at_rest' => $one->unrest === null,
        ], array_keys($all), array_values($all));
        $lines = array_map(
            fn (array $one): string => "{$one['name']}  {$one['at']}".($one['at_rest'] ? '' : '  as after a power cut'),
            $told,
        );
        $failure = $rule->failure ?? null;
        $this->answer(['snapshots' => $told, 'rule' => $rule?->only(['minutes', 'keep', 'command', 'failure'])], fn (): array => [
            ...$lines,
            $rule === null ? 'None is taken by rule.' : self::words($rule),
            ...$failure === null ? [] : ["The last could not be taken: $failure"],
        ]);
    }

    public static function words(SnapshotRule $rule): string
    {
        [$least, $most] = $rule->reach();

        return "One is taken every {$rule->minutes} min, and {$rule->keep} are kept: they reach back $least to $most min.";
    }

    private function take(Workload $workload): void
    {
        $name = (new SourceSnapshots($workload))->take();
        TrailEntry::add("The snapshot $name of {$workload->name} was taken.", null, null, workload: $workload);
        $told = "$name is kept where the disks of {$workload->name} lie, and goes with them.";
        $this->answer(['snapshot' => $name], fn (): array => [$told]);
    }

    private function drop(Workload $workload, string $name): void
    {
        (new SourceSnapshots($workload))->drop($name);
        TrailEntry::add("The snapshot $name of {$workload->name} was dropped.", null, null, workload: $workload);
        $this->answer(['dropped' => $name], fn (): array => ["$name is gone."]);
    }

    private function keep(Workload $workload, string $name): void
    {
        $set = (new SourceSnapshots($workload))->keep($name);
        TrailEntry::add("The set {$set->name} was made of the snapshot $name.", null, null, workload: $workload);
        $this->answer(['set' => $set->name], fn (): array => ["{$set->name} is a set like any other now."]);
    }

    private function rule(Workload $workload, InputInterface $input): void
    {
        if ($input->getOption('off')) {
            SnapshotRule::of($workload)?->delete();
            $told = "No snapshots of {$workload->name} are taken any more.";
            TrailEntry::add($told, null, null, workload: $workload, sort: TrailSort::Rule);
            $this->answer(['rule' => null], fn (): array => ['None is taken any more; those there are stay until they are dropped.']);

            return;
        }
        $command = $input->getOption('command-after');
        $rule = SnapshotRule::query()->updateOrCreate(['workload_id' => $workload->id], [
            'minutes' => self::number($input, 'every', SnapshotRule::MOST_MINUTES),
            'keep' => self::number($input, 'keep', SnapshotRule::MOST_KEPT),
            'command' => $command === null ? null : HostCommand::parse((string) $command),
            'failure' => null,
        ]);
        TrailEntry::add("{$workload->name}: ".self::words($rule), null, null, workload: $workload, sort: TrailSort::Rule);
        $this->answer(['rule' => $rule->only(['minutes', 'keep', 'command'])], fn (): array => [self::words($rule)]);
    }

    private static function number(InputInterface $input, string $option, int $most): int
    {
        $said = (string) $input->getOption($option);
        $isNumber = preg_match('/^[1-9]\d{0,4}$/D', $said) === 1 && (int) $said <= $most;

        return $isNumber ? (int) $said : throw new InvalidArgumentException("--$option is a number from 1 to $most.");
    }
}
