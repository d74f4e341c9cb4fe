<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Models\BackupSet;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use stdClass;

/** The mailboxes of a workload at a point, and their folders. */
final class MailboxTree
{
    /** @return list<array{mailbox: string, folder: string, messages: int, bytes: int}> by mailbox, INBOX first, then by folder */
    public static function at(Workload $workload, BackupSet $point): array
    {
        $rows = DB::select(
            'SELECT COALESCE(f.mailbox, g.mailbox) AS mailbox, COALESCE(f.folder, g.folder) AS folder, '.
                'COUNT(DISTINCT c.item_id) AS messages, SUM(c.length) AS bytes FROM versions v '.
                'JOIN item_contents c ON c.digest = v.digest AND c.workload_id = ? AND c.item_id > 0 '.
                'LEFT JOIN item_folders f ON f.path_id = v.path_id LEFT JOIN item_folders g ON g.path_id = v.parent_id '.
                'WHERE v.history_id = ? AND v.first <= ? AND v.until > ? AND (f.path_id IS NOT NULL OR g.path_id IS NOT NULL) '.
                "GROUP BY 1, 2 ORDER BY 1, COALESCE(f.folder, g.folder) <> 'INBOX', 2",
            [$workload->id, $point->history_id, $point->instant, $point->instant],
        );

        return array_values(array_map(fn (stdClass $row): array => [
            'mailbox' => $row->mailbox, 'folder' => $row->folder, 'messages' => (int) $row->messages, 'bytes' => (int) $row->bytes,
        ], $rows));
    }
}
