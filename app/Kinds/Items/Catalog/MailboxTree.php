<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Models\BackupSet;
use App\Models\Workload;
use App\Trees\Catalog\CatalogReader;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Mail\MailLayout;
use stdClass;

/** The mailboxes of a workload at a point, and their folders: from totals that the catalog keeps, so that no message is gone through. */
final class MailboxTree
{
    /** @return list<MailFolderCount> by mailbox, INBOX first, then by folder */
    public static function at(Workload $workload, BackupSet $point): array
    {
        $tree = [];
        foreach ([...self::maildirs($workload, $point), ...self::files($workload, $point)] as [$mailbox, $folder, $items, $bytes]) {
            $row = $tree["$mailbox\0$folder"] ??= new MailFolderCount($mailbox, $folder);
            $row->items += $items;
            $row->bytes += $bytes;
        }
        $rank = fn (MailFolderCount $row): array => [$row->mailbox, $row->folder !== MailLayout::INBOX, $row->folder];
        usort($tree, fn (MailFolderCount $a, MailFolderCount $b): int => $rank($a) <=> $rank($b));

        return $tree;
    }

    /** @return iterable<array{string, string, int, int}> mailbox, folder, files, bytes */
    private static function maildirs(Workload $workload, BackupSet $point): iterable
    {
        $rows = DB::select('SELECT path_id, mailbox, folder FROM item_folders WHERE workload_id = ?', [$workload->id]);
        foreach (array_chunk($rows, 5_000) as $some) {
            $totals = (new CatalogReader)->totals($point, array_map(fn (stdClass $row): int => (int) $row->path_id, $some));
            foreach ($some as $row) {
                [$files, $bytes] = $totals[(int) $row->path_id] ?? [0, 0];
                if ($files > 0) {
                    yield [$row->mailbox, $row->folder, $files, $bytes];
                }
            }
        }
    }

    /** @return iterable<array{string, string, int, int}> of files that hold items themselves */
    private static function files(Workload $workload, BackupSet $point): iterable
    {
        $rows = DB::select(
            'SELECT STRAIGHT_JOIN f.mailbox, f.folder, COUNT(*) AS items, SUM(c.length) AS bytes FROM item_folders f '.
                'JOIN versions v FORCE INDEX (path_span) ON v.path_id = f.path_id AND v.history_id = ? AND v.first <= ? AND v.until > ? '.
                'JOIN item_contents c ON c.workload_id = f.workload_id AND c.digest = v.digest AND c.item_id > 0 '.
                'WHERE f.workload_id = ? GROUP BY f.mailbox, f.folder',
            [$point->history_id, $point->instant, $point->instant, $workload->id],
        );
        foreach ($rows as $row) {
            yield [$row->mailbox, $row->folder, (int) $row->items, (int) $row->bytes];
        }
    }
}
