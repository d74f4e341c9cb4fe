<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Models\Workload;
use Illuminate\Support\Facades\DB;

/** The names of mailboxes in the sets of workloads, kept apart from their folders: the menu of every page asks whose they are. */
final class MailboxNames
{
    /** @param  list<string>  $names  as item_folders has them */
    public static function add(int $workload, array $names): void
    {
        DB::table('item_mailboxes')->insertOrIgnore(
            array_map(fn (string $name): array => ['workload_id' => $workload, 'mailbox' => $name], array_values(array_unique($names))),
        );
    }

    /** Forgets those that no folder has any more. */
    public static function forgetGone(Workload $workload): void
    {
        DB::delete(
            'DELETE FROM item_mailboxes WHERE workload_id = ? AND NOT EXISTS (SELECT 1 FROM item_folders f '.
                'WHERE f.workload_id = item_mailboxes.workload_id AND f.mailbox = item_mailboxes.mailbox)',
            [$workload->id],
        );
    }

    public static function has(int $workload, string $name): bool
    {
        return DB::table('item_mailboxes')->where(['workload_id' => $workload, 'mailbox' => $name])->exists();
    }

    /**
     * Those that may bear an address, as they are or as their server calls them: whatever it makes of a name (see MailServer::$naming),
     * the last part of it stays. Which of them do bear it, the caller finds out.
     *
     * @param  list<int>  $workloads
     * @return array<int, list<string>> workload => names
     */
    public static function within(string $address, array $workloads): array
    {
        $rows = DB::table('item_mailboxes')
            ->whereIn('workload_id', $workloads)
            ->whereRaw("LOCATE(SUBSTRING_INDEX(mailbox, '/', -1) COLLATE utf8mb4_general_ci, ?) > 0", [$address])
            ->orderBy('workload_id')->orderBy('mailbox')
            ->get();
        $names = [];
        foreach ($rows as $row) {
            $names[(int) $row->workload_id][] = (string) $row->mailbox;
        }

        return $names;
    }
}
