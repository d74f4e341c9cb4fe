<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Console\CommandLine\NoServer;
use App\Kinds\BrowsesFiles;
use App\Kinds\FindsFiles;
use App\Kinds\Machines\Disks\MachineSearch;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Intake\ImageNames;
use App\Kinds\Machines\Machines;
use App\Kinds\Machines\Order\ImageHandSheet;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Models\Workload;
use App\Sets\Points;
use App\Trees\Catalog\SearchQuery;
use Closure;
use InvalidArgumentException;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Machines on the command line. */
final class MachineTerminal implements BrowsesFiles, FindsFiles
{
    public function commands(): array
    {
        return [
            new HypervisorCommand, new MachineCommand, new StandingCommand, new SettleCommand, new DiscardCommand,
            new AnnexCommand, new InsideCommand, new ScanCommand, new VerdictCommand, new ReleaseCommand,
            new StandInCommand, new GoHomeCommand, new NameServerCommand, new MachineNameCommand,
            new SnapshotCommand, new MediumCommand, new EnrolledCommand, new LayoutCommand,
            new OwnMachinesCommand,
        ];
    }

    public function takes(): array
    {
        return ['browse', 'find'];
    }

    public function describe(Command $command): void
    {
        match ($command->getName()) {
            'restore' => MachineRestore::describe($command),
            'protect' => $command
                ->addOption('machine', null, InputOption::VALUE_REQUIRED, 'the machine that it is, as HYPERVISOR:NAME')
                ->addOption(
                    'exclude-disk',
                    null,
                    InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                    'with --machine: a disk of it that no set is made of, now and later',
                ),
            'hand-sheet' => MetalRestore::describeSheet($command),
            'adopt' => $command->addOption(
                'pattern',
                null,
                InputOption::VALUE_REQUIRED,
                'how their names are built, with {name}, {disk}, {level}, {stamp} and {history}; images of one level and moment are '.
                    'the disks of one set (default: '.
                    ImageNames::DEFAULT_PATTERN.
                    ', {disk} may be missing; .raw as well)',
            ),
            default => null,
        };
    }

    public function restore(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        return match (true) {
            $input->getOption('to-metal') !== null => (new MetalRestore($workload, $input, $talk))->carryOut(),
            $input->getOption('to-blank') !== null => (new BlankRestore($workload, $input, $talk))->carryOut(),
            $input->getOption('into') !== null => (new IntoRestore($workload, $input, $talk))->carryOut(),
            PlacementRestore::isMeant($input) => (new PlacementRestore($workload, $input, $talk))->carryOut(),
            $input->getOption('path') === [] => (new MachineRestore($workload, $input, $talk))->carryOut(),
            default => (new MachineFilesRestore($workload, $input, $talk))->carryOut(),
        };
    }

    public function browse(Workload $workload, InputInterface $input): Told
    {
        return MachineBrowse::told($workload, $input);
    }

    public function find(Workload $workload, SearchQuery $query, int $most, Closure $told, array &$notes): array
    {
        if ($query->text.$query->author !== '') {
            throw new InvalidArgumentException(
                'What stands in files inside a machine is not looked through; leave --text and --author away.',
            );
        }
        $search = new MachineSearch(new Points($workload), $query, $most);
        $found = $search->run($told);
        $notes = $search->notes;

        return $found;
    }

    public function handSheet(Workload $workload, InputInterface $input): array
    {
        if ($input->getOption('to-metal') !== null) {
            return MetalRestore::handSheet($workload, $input);
        }
        [$points, $point] = MachineRestore::point($workload, $input, KaisekiCommand::copyRule($input));

        return [$point->name, [ImageHandSheet::script($points, $point)]];
    }

    public function sourceSaid(InputInterface $input, string $name, ?Workload $known): ?Workload
    {
        $said = $input->hasOption('machine') ? $input->getOption('machine') : null;
        if ($said === null) {
            return null;
        }
        [$on, $machine] = [...explode(':', (string) $said, 2), ''];
        $host =
            HypervisorHost::query()->where('name', $on)->first() ??
            throw new InvalidArgumentException(
                "There is no hypervisor \"$on\"; --machine is HYPERVISOR:NAME, and \"machine list\" shows those there are.",
            );
        try {
            $seen = $host->look()->machines[$machine] ?? throw new InvalidArgumentException("There is no machine \"$machine\" at $on.");
        } catch (HypervisorFailure $failure) {
            throw new NoServer($failure->getMessage());
        }
        if (($known !== null && $known->kind !== Machines::NAME) || ! Workload::canBeNamed($name)) {
            throw new InvalidArgumentException("\"$name\" cannot be the name of a machine here.");
        }
        $excluded = array_values(array_map(strval(...), (array) $input->getOption('exclude-disk')));
        foreach (array_diff($excluded, $seen->settings->diskNames()) as $unknown) {
            throw new InvalidArgumentException(
                "$machine has no disk \"$unknown\". It has: ".implode(', ', $seen->settings->diskNames()).'.',
            );
        }
        $workload = $known ?? Workload::query()->create(['name' => $name, 'kind' => Machines::NAME, 'site' => $host->site]);
        $host->holds($workload, $machine);
        HypervisorHost::exclude($workload, $excluded);

        return $workload;
    }
}
