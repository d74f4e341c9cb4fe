<?php

declare(strict_types=1);

namespace App\Kinds\Items;

use App\Kinds\Given;
use App\Kinds\Items\Catalog\ItemWords;
use App\Models\BackupSet;
use App\Words;
use Illuminate\Support\Facades\DB;

/** What single things a set of mailboxes gives, and what not: from how it was taken in. */
final class ItemsGive
{
    /** @return list<Given> */
    public static function of(BackupSet $set): array
    {
        $row = DB::selectOne(
            'SELECT COUNT(DISTINCT c.item_id) AS items, COUNT(DISTINCT COALESCE(f.mailbox, g.mailbox)) AS mailboxes FROM versions v '.
                'JOIN item_contents c ON c.digest = v.digest AND c.workload_id = ? AND c.item_id > 0 '.
                'LEFT JOIN item_folders f ON f.path_id = v.path_id LEFT JOIN item_folders g ON g.path_id = v.parent_id '.
                'WHERE v.history_id = ? AND v.first <= ? AND v.until > ?',
            [$set->workload_id, $set->history_id, $set->instant, $set->instant],
        );
        $items = (int) ($row->items ?? 0);
        $waiting = ItemWords::waiting($set->workload);

        return [
            new Given(
                'single messages, folders, mailboxes',
                $items > 0,
                $items === 0
                    ? 'no messages were found in it'
                    : Words::count($items, 'message').' in '.Words::count((int) $row->mailboxes, 'mailbox', 'mailboxes'),
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
