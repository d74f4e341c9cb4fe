<?php

declare(strict_types=1);

namespace App\Kinds\Items;

use App\Kinds\Given;
use App\Kinds\Items\Catalog\ItemWords;
use App\Kinds\Items\Catalog\MailboxTree;
use App\Kinds\Items\Catalog\MailFolderCount;
use App\Kinds\Items\Live\LiveMailboxes;
use App\Models\BackupSet;
use App\Words;
use Kaiseki\Core\Mail\MailLayout;

/** What single things a set of mailboxes gives, and what not: from how it was taken in. */
final class ItemsGive
{
    /** @return list<Given> */
    public static function of(BackupSet $set): array
    {
        $tree = MailboxTree::at($set->workload, $set);
        $collections = array_filter($tree, fn (MailFolderCount $row): bool => MailLayout::collection($row->folder) !== $row->folder);
        $mail = array_diff_key($tree, $collections);
        $live = LiveMailboxes::of($set->workload);
        $unless = $live === null || $live->server->dav !== ''
            ? 'no calendars and contacts were found in it; sets of a folder with .ics and .vcf have them'
            : "it is read from {$live->server->name} by IMAP, which knows no calendars and contacts: bin/kaiseki mail-server add ".
                "{$live->server->name} --dav=";
        $waiting = ItemWords::waiting($set->workload);

        return [
            self::given('single messages, folders, mailboxes', $mail, 'message', 'no messages were found in it'),
            self::given(
                'single appointments, days of a series, contacts',
                $collections,
                'appointment or contact',
                $unless,
                'appointments and contacts',
            ),
            new Given(
                'words of bodies and attachments',
                $tree !== [] && $waiting === 0,
                $waiting === 0 ? 'they can be looked for' : Words::count($waiting, 'item').' still to be looked through',
            ),
            new Given('rules, rights and passwords of mailboxes', false, 'they are in it only as the server’s own files, if at all'),
        ];
    }

    /** @param  array<MailFolderCount>  $tree */
    private static function given(string $what, array $tree, string $one, string $unless, ?string $many = null): Given
    {
        $items = array_sum(array_column($tree, 'items'));
        $mailboxes = count(array_unique(array_column($tree, 'mailbox')));

        return new Given(
            $what,
            $items > 0,
            $items === 0 ? $unless : Words::count($items, $one, $many).' in '.Words::count($mailboxes, 'mailbox', 'mailboxes'),
        );
    }
}
