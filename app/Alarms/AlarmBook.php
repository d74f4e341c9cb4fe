<?php

declare(strict_types=1);

namespace App\Alarms;

use App\Models\Alarm;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use Illuminate\Support\Facades\DB;

/** Raises an alarm when its cause is there, once; ends it when the cause is gone. */
final class AlarmBook
{
    /** What is over is kept so long. */
    private const DAYS = 90;

    public static function look(): void
    {
        $causes = [];
        foreach (Causes::now() as $cause) {
            $causes[$cause->key()] = $cause;
        }
        $open = Alarm::query()->whereNotNull('open')->pluck('id', 'open')->all();
        foreach (array_diff_key($causes, $open) as $cause) {
            self::raise($cause);
        }
        $gone = array_values(array_diff_key($open, $causes));
        Alarm::query()->whereIn('id', $gone)->update(['open' => null, 'over_at' => now()]);
        Alarm::query()->whereNull('open')->where('over_at', '<', now()->subDays(self::DAYS))->delete();
    }

    /** At once, by whoever knows; a cause that stands already raises no other. */
    public static function raise(Cause $cause): void
    {
        $raised = DB::table('alarms')->insertOrIgnore([
            'sort' => $cause->sort->value,
            'open' => $cause->key(),
            'words' => mb_substr(mb_scrub($cause->words), 0, 1000),
            'page' => $cause->page,
            'workload_id' => $cause->workload,
            'raised_at' => now(),
        ]);
        if ($raised > 0) {
            AlarmLog::add($cause->words);
        }
    }

    /** It is not sent any more. */
    public static function take(Alarm $alarm, User $by): bool
    {
        $taken = Alarm::query()->whereKey($alarm->id)->whereNull('taken_at')->update(['taken_by' => $by->id, 'taken_at' => now()]) === 1;
        if ($taken) {
            TrailEntry::add("{$by->name} took the alarm: {$alarm->words}", null, $by, sort: TrailSort::Order, workload: $alarm->workload);
        }

        return $taken;
    }
}
