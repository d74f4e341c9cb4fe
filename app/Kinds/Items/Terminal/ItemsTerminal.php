<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\BrowsesFiles;
use App\Kinds\FindsByLine;
use App\Kinds\Items\Items;
use App\Kinds\Items\Live\LiveMailboxes;
use App\Kinds\Items\Order\ItemsHandSheet;
use App\Kinds\Items\Order\ItemsReading;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Models\Workload;
use App\Trees\Intake\Adoption;
use App\Trees\Making\FolderSource;
use Kaiseki\Core\Catalog\ArchiveScan;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Items on the command line. */
final class ItemsTerminal implements BrowsesFiles, FindsByLine
{
    public function commands(): array
    {
        return [new ItemCommand, new MailServerCommand, new ErasedCommand, new OwnItemsCommand];
    }

    public function takes(): array
    {
        return ['browse', 'find', 'item', 'own-items'];
    }

    public function describe(Command $command): void
    {
        $value = InputOption::VALUE_REQUIRED;
        match ($command->getName()) {
            'restore' => ItemsRestore::describe($command),
            'hand-sheet' => self::describeHandSheet($command),
            'adopt' => $command
                ->addOption('pattern', null, $value, 'how the names of archives are built (default: '.Adoption::DEFAULT_PATTERN.')')
                ->addOption('sheet', null, $value, 'a JSON list of file, level, captured_at, base, history instead')
                ->addOption('ratio', null, $value, 'how many times its size an archive may unpack to', (string) ArchiveScan::MOST_TIMES),
            'protect' => $command
                ->addOption('mail', null, $value, 'the folder with mailboxes that is protected')
                ->addOption('read-from', null, $value, 'a mail server that mailboxes are read from, where nobody gets at its files')
                ->addOption('mailboxes', null, $value, 'which of its mailboxes, with commas between them'),
            'find' => $command->addOption('at', null, $value, 'of items: as they were at this moment; without it whenever they were there'),
            'browse' => $command
                ->addOption('mailbox', null, $value, 'of items: this mailbox only')
                ->addOption('folder', null, $value, 'of items: what lay in this folder of it'),
            default => null,
        };
    }

    private static function describeHandSheet(Command $command): void
    {
        $command
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'the newest usable point at or before this moment')
            ->addOption('point', null, InputOption::VALUE_REQUIRED, 'the point of this very set');
        ItemsRestore::describeSelection($command);
        KaisekiCommand::describeDemand($command);
        KaisekiCommand::describeCopyRule($command);
    }

    public function restore(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        return ItemsRestore::carryOut($workload, $input, $talk);
    }

    public function browse(Workload $workload, InputInterface $input): Told
    {
        return BrowseMailboxes::told($workload, $input);
    }

    public function findByLine(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        return FindItems::told($workload, $input, $talk);
    }

    public function handSheet(Workload $workload, InputInterface $input): array
    {
        $at = ItemsAtPoint::toBring($workload, $input);
        $chosen = ItemsRestore::selection($input, $workload)->at($workload, $at->point);
        $copies = KaisekiCommand::copyRule($input);
        $reading = ItemsReading::plan($at->points, $at->point, $chosen, $copies);

        return [$at->point->name, ItemsHandSheet::script($at->points, $at->point, $chosen, $reading, $copies)];
    }

    public function sourceSaid(InputInterface $input, string $name, ?Workload $known): ?Workload
    {
        $server = $input->hasOption('read-from') ? $input->getOption('read-from') : null;
        if ($server !== null) {
            return LiveMailboxes::said((string) $server, (string) $input->getOption('mailboxes'), $name, $known);
        }
        $source = $input->hasOption('mail') ? $input->getOption('mail') : null;

        return $source === null ? null : FolderSource::said(Items::NAME, (string) $source, $name, $known);
    }
}
