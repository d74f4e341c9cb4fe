<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Models\BackupSet;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Mail\Calendar\Occurrence;
use stdClass;

/** What else takes place in a calendar as it was at a point. */
final class NearbyAppointments
{
    private const MOST = 100;

    /**
     * @param  string  $not  the subject of what is looked at itself
     * @return list<Occurrence> rising
     */
    public static function of(
        Workload $workload,
        BackupSet $point,
        string $mailbox,
        string $folder,
        CarbonImmutable $from,
        CarbonImmutable $to,
        string $not,
    ): array {
        $rows = DB::select(
            'SELECT DISTINCT t.instance, t.begins, t.ends, i.subject, i.id FROM item_folders f '.
                'JOIN versions v FORCE INDEX (path_span) ON v.path_id = f.path_id AND v.history_id = ? AND v.first <= ? AND v.until > ? '.
                'JOIN item_contents c ON c.workload_id = f.workload_id AND c.digest = v.digest '.
                'JOIN items i ON i.id = c.item_id JOIN item_times t ON t.item_id = i.id AND t.begins < ? AND t.ends > ? '.
                'WHERE f.workload_id = ? AND f.mailbox = ? AND f.folder = ? AND i.subject <> ? ORDER BY t.begins, i.id LIMIT ?',
            [
                $point->history_id, $point->instant, $point->instant, $to->getTimestamp(), $from->getTimestamp(), $workload->id, $mailbox,
                $folder, $not, self::MOST,
            ],
        );

        return array_values(array_map(
            fn (stdClass $of): Occurrence => new Occurrence($of->instance, (int) $of->begins, (int) $of->ends, false, $of->subject, ''),
            $rows,
        ));
    }
}
