<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\BrowsesFiles;
use App\Kinds\Machines\Intake\ImageNames;
use App\Kinds\Machines\Order\ImageHandSheet;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Models\Workload;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Machines on the command line. */
final class MachineTerminal implements BrowsesFiles
{
    public function commands(): array
    {
        return [new HypervisorCommand, new MachineCommand];
    }

    public function takes(): array
    {
        return ['browse'];
    }

    public function describe(Command $command): void
    {
        match ($command->getName()) {
            'restore' => MachineRestore::describe($command),
            'hand-sheet' => MachineRestore::describePoint($command),
            'adopt' => $command->addOption(
                'pattern',
                null,
                InputOption::VALUE_REQUIRED,
                'how their names are built, with {name}, {disk}, {level}, {stamp} and {history}; images of one level and moment are '.
                    'the disks of one set (default: '.ImageNames::DEFAULT_PATTERN.', {disk} may be missing; .raw as well)',
            ),
            default => null,
        };
    }

    public function restore(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        return match (true) {
            PlacementRestore::isMeant($input) => (new PlacementRestore($workload, $input, $talk))->carryOut(),
            $input->getOption('path') === [] => (new MachineRestore($workload, $input, $talk))->carryOut(),
            default => (new MachineFilesRestore($workload, $input, $talk))->carryOut(),
        };
    }

    public function browse(Workload $workload, InputInterface $input): Told
    {
        return MachineBrowse::told($workload, $input);
    }

    public function handSheet(Workload $workload, InputInterface $input): array
    {
        [$points, $point] = MachineRestore::point($workload, $input, KaisekiCommand::copyRule($input));

        return [$point->name, [ImageHandSheet::script($points, $point)]];
    }

    public function sourceSaid(InputInterface $input, string $name, ?Workload $known): ?Workload
    {
        return null;
    }
}
