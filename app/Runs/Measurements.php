<?php

declare(strict_types=1);

namespace App\Runs;

use App\Models\Copy;
use App\Models\Run;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Files\ReadAmount;

/** What a run that has ended says about the speed of stores, lanes and its target. */
final class Measurements
{
    /** Less than this says more about the moment than about the rate. */
    private const LEAST_BYTES = 4_000_000;

    /** Files smaller than this on the average cost by their number, larger ones by their bytes. */
    private const SMALL = 65_536;

    private const LEAST_FILES = 200;

    /**
     * @param  array<int|string, ReadAmount>  $read  copy id => what was read of it
     * @param  array<int, Copy>  $copies  by id
     */
    public static function of(Run $run, array $read, array $copies): void
    {
        $rows = [];
        $site = $run->workload->site;
        $reading = 0.0;
        $stores = [];
        foreach ($read as $id => $what) {
            $copy = $copies[$id] ?? null;
            $reading += $what->seconds;
            if ($copy === null) {
                continue;
            }
            $name = $copy->store->name;
            $stores[$name] ??= [
                'site' => $copy->store->site,
                'bytes' => 0,
                'members' => 0,
                'seconds' => 0.0,
                'setup' => $copy->store->setup_s,
                'media' => [],
            ];
            $stores[$name]['bytes'] += $what->bytes;
            $stores[$name]['members'] += $what->members;
            $stores[$name]['seconds'] += $what->seconds;
            $stores[$name]['media'] += array_flip(array_column($copy->segments ?? [], 'label'));
        }
        foreach ($stores as $name => $of) {
            // Loading is told apart, as the plan does.
            $seconds = $of['seconds'] - $of['setup'] * count($of['media']);
            if ($of['bytes'] >= self::LEAST_BYTES && $of['bytes'] / $of['members'] >= self::SMALL && $seconds > 0.01) {
                $rows[] = self::row(
                    $run,
                    $of['site'] === $site ? 'store' : 'lane',
                    $of['site'] === $site ? $name : "{$of['site']}>$site",
                    $of['bytes'] / $seconds / 1e6,
                    $of['bytes'],
                );
            }
        }
        $files = $run->outcome['files'] ?? 0;
        $bytes = $run->outcome['bytes'] ?? 0;
        $rest = ($run->seconds() ?? 0.0) - $reading;
        if ($files >= self::LEAST_FILES && $bytes / $files < self::SMALL) {
            $rows[] = self::row($run, 'file', $site, max(1e-6, ($run->seconds() ?? 0.0) / $files), $files);
        } elseif ($bytes >= self::LEAST_BYTES && $rest > 0.01) {
            $rows[] = self::row($run, 'write', $site, $bytes / $rest / 1e6, $bytes);
        }
        DB::table('rate_measurements')->insert($rows);
    }

    /** @return array<string, mixed> */
    private static function row(Run $run, string $what, string $subject, float $rate, float $weight): array
    {
        return ['what' => $what, 'subject' => $subject, 'rate' => $rate, 'weight' => $weight, 'run_id' => $run->id, 'at' => now()];
    }
}
