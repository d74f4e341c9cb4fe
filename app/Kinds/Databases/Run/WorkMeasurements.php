<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Models\Run;
use App\Models\RunStep;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Database\WorkRates;
use Kaiseki\Core\Estimate\MeasuredRate;

/** How fast dumps were loaded and logs rolled forward by the runs before, so that an estimate speaks of this machine. */
final class WorkMeasurements
{
    /** Less says more about the moment than about the rate. */
    private const LEAST_BYTES = 4_000_000;

    private const LATEST = 20;

    private const SUBJECT = 'here';

    /**
     * @param  int  $dump  bytes, unpacked, that the step of loading brought
     * @param  int  $logs  bytes that were rolled forward
     */
    public static function take(Run $run, int $dump, int $logs): void
    {
        $steps = $run->steps()->get()->keyBy('name');
        $rows = [];
        foreach (['load' => ['load the dump', $dump], 'roll' => ['roll the logs forward', $logs]] as $what => [$name, $bytes]) {
            $step = $steps[$name] ?? null;
            $seconds = $step instanceof RunStep ? $step->seconds() ?? 0 : 0;
            if ($bytes >= self::LEAST_BYTES && $seconds > 0.05) {
                $rows[] = [
                    'what' => $what,
                    'subject' => self::SUBJECT,
                    'rate' => $bytes / $seconds,
                    'weight' => $bytes,
                    'run_id' => $run->id,
                    'at' => now(),
                ];
            }
        }
        DB::table('rate_measurements')->insert($rows);
    }

    public static function now(): WorkRates
    {
        return WorkRates::of(self::rate('load'), self::rate('roll'));
    }

    private static function rate(string $what): ?MeasuredRate
    {
        $rows = DB::table('rate_measurements')
            ->where('what', $what)
            ->where('subject', self::SUBJECT)
            ->latest('id')
            ->limit(self::LATEST)
            ->get(['rate', 'weight']);
        $measured = array_values($rows->map(fn (object $row): array => [(float) $row->rate, (float) $row->weight])->all());

        return $measured === [] ? null : MeasuredRate::of($measured);
    }
}
