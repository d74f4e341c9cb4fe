<?php

declare(strict_types=1);

namespace App\Kinds\Files\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\BrowsesFiles;
use App\Kinds\Files\Files;
use App\Kinds\FindsFiles;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Models\Workload;
use App\Trees\Catalog\SearchQuery;
use App\Trees\Intake\Adoption;
use App\Trees\Making\FolderSource;
use App\Trees\Run\HandSheetOf;
use Closure;
use Kaiseki\Core\Catalog\ArchiveScan;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Files on the command line. */
final class FilesTerminal implements BrowsesFiles, FindsFiles
{
    public function commands(): array
    {
        return [new Plan, new PreviewCommand, new SalvageList];
    }

    public function takes(): array
    {
        return ['plan', 'browse', 'find', 'preview', 'salvage'];
    }

    public function find(Workload $workload, SearchQuery $query, int $most, Closure $told, array &$notes): array
    {
        return FindInCatalog::versions($workload, $query, $most, $told);
    }

    public function describe(Command $command): void
    {
        match ($command->getName()) {
            'restore' => self::describeRestore($command),
            'hand-sheet' => self::describeHandSheet($command),
            'adopt' => self::describeAdopt($command),
            'protect' => $command->addOption('source', null, InputOption::VALUE_REQUIRED, 'the folder that is protected'),
            default => null,
        };
    }

    private static function describeRestore(Command $command): void
    {
        OrderFromInput::describe($command);
        $command
            ->addOption(
                'no-wait',
                null,
                InputOption::VALUE_NONE,
                'do not wait for a cartridge from the shelf, or a store: the run goes on by itself when it is there',
            )
            ->addOption('set-first', null, InputOption::VALUE_NONE, 'make a set of what is there now before anything is put in place');
        KaisekiCommand::describeDemand($command);
        KaisekiCommand::describeCopyRule($command);
    }

    private static function describeHandSheet(Command $command): void
    {
        $command
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'the newest usable point at or before this moment')
            ->addOption('point', null, InputOption::VALUE_REQUIRED, 'the point of this very set')
            ->addOption(
                'path',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'what would be brought back; without it everything',
            );
        KaisekiCommand::describeDemand($command);
        KaisekiCommand::describeCopyRule($command);
    }

    private static function describeAdopt(Command $command): void
    {
        $command
            ->addOption(
                'pattern',
                null,
                InputOption::VALUE_REQUIRED,
                'how their names are built, with {name}, {level}, {stamp} and {history} (default: '.
                    Adoption::DEFAULT_PATTERN.
                    ', or .tar)',
            )
            ->addOption('sheet', null, InputOption::VALUE_REQUIRED, 'a JSON list of file, level, captured_at, base, history instead')
            ->addOption(
                'ratio',
                null,
                InputOption::VALUE_REQUIRED,
                'how many times its size a gzipped archive may unpack to, before it is taken for one that is made to do harm',
                (string) ArchiveScan::MOST_TIMES,
            );
    }

    public function restore(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        return FilesRestore::carryOut($workload, $input, $talk);
    }

    public function browse(Workload $workload, InputInterface $input): Told
    {
        return BrowseTree::told($workload, $input);
    }

    public function handSheet(Workload $workload, InputInterface $input): array
    {
        $order = OrderFromInput::toLook($input, $workload, KaisekiCommand::paths($input), KaisekiCommand::copyRule($input));

        return [
            $order->point->name,
            HandSheetOf::make($order->plan, $order->planned, $order->reading, $order->point, $order->points)->script(),
        ];
    }

    public function sourceSaid(InputInterface $input, string $name, ?Workload $known): ?Workload
    {
        $source = $input->hasOption('source') ? $input->getOption('source') : null;
        if ($source === null) {
            return null;
        }

        return FolderSource::said(Files::NAME, (string) $source, $name, $known);
    }
}
