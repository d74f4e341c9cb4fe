<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Items\Catalog\MailboxTree;
use App\Kinds\Items\Catalog\MailFolderCount;
use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemSelection;
use App\Kinds\Told;
use App\Models\Workload;
use App\Words;
use Symfony\Component\Console\Input\InputInterface;

/** `browse` for items: mailboxes and folders as they were, and what lay in one. */
final class BrowseMailboxes
{
    public static function told(Workload $workload, InputInterface $input): Told
    {
        $point = ItemsAtPoint::toLook($workload, $input)->point;
        [$mailbox, $folder] = [$input->getOption('mailbox'), $input->getOption('folder')];
        $folders = array_values(array_filter(
            MailboxTree::at($workload, $point),
            fn (MailFolderCount $row): bool => $mailbox === null || $row->mailbox === $mailbox,
        ));
        $chosen = $folder === null ? [] : (new ItemSelection([], '', (string) $mailbox, (string) $folder))->at($workload, $point);
        $there = array_values(array_filter($chosen, fn (ChosenItem $one): bool => $one->span->folder === $folder));

        return new Told(
            KaisekiCommand::DONE,
            [
                'point' => $point->name,
                'folders' => array_map(get_object_vars(...), $folders),
                'entries' => array_map(fn (ChosenItem $one): array => ItemJson::of($one->item, $one->span), $there),
            ],
            function () use ($folders, $there, $folder): iterable {
                foreach ($folder === null ? $folders : [] as $row) {
                    yield sprintf('%-40s %-40s %s', $row->mailbox, $row->folder, Words::count($row->items, 'item'));
                }
                foreach ($there as $one) {
                    yield ItemJson::line($one->item, $one->span);
                }
                yield $folder === null ? Words::count(count($folders), 'folder').'.' : Words::count(count($there), 'item').'.';
            },
        );
    }
}
