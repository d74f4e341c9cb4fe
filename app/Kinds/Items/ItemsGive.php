<?php

declare(strict_types=1);

namespace App\Kinds\Items;

use App\Kinds\Given;
use App\Kinds\Items\Catalog\ItemWords;
use App\Kinds\Items\Catalog\MailboxTree;
use App\Models\BackupSet;
use App\Words;

/** What single things a set of mailboxes gives, and what not: from how it was taken in. */
final class ItemsGive
{
    /** @return list<Given> */
    public static function of(BackupSet $set): array
    {
        $tree = MailboxTree::at($set->workload, $set);
        $items = array_sum(array_column($tree, 'messages'));
        $mailboxes = count(array_unique(array_column($tree, 'mailbox')));
        $waiting = ItemWords::waiting($set->workload);

        return [
            new Given(
                'single messages, folders, mailboxes',
                $items > 0,
                $items === 0
                    ? 'no messages were found in it'
                    : Words::count($items, 'message').' in '.Words::count($mailboxes, 'mailbox', 'mailboxes'),
            ),
            new Given(
                'words of bodies and attachments',
                $items > 0 && $waiting === 0,
                $waiting === 0 ? 'they can be looked for' : Words::count($waiting, 'message').' still to be looked through',
            ),
            new Given('calendars, contacts', false, 'it holds folders of mail: they are in it only as files, if at all'),
            new Given('rules, rights and passwords of mailboxes', false, 'they are in it only as the server’s own files, if at all'),
        ];
    }
}
