<?php

declare(strict_types=1);

namespace App\Care;

use App\Kinds\Kinds;
use App\Models\Schedule;
use App\Models\Store;
use App\Models\Workload;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Timetable;
use Kaiseki\Core\Protect\Window;

/** Settles when sets are made, after looking whether that can ever be. */
final class Schedules
{
    /**
     * @param  array<string, int|string>  $of  workload_id, or group
     * @param  list<string>  $times  "0 2 * * 0=full"
     * @param  string|null  $hours  HH:MM-HH:MM
     * @param  list<string>  $copyTo  names of stores
     * @param  list<string>|null  $before
     * @param  list<string>|null  $after
     *
     * @throws InvalidArgumentException
     */
    public static function settle(
        array $of,
        Store $store,
        array $times,
        string $zone,
        ?string $hours,
        array $copyTo,
        ?string $copyFrom,
        ?array $before,
        ?array $after,
        int $limit,
        bool $on,
    ): Schedule {
        $pairs = array_map(function (string $time): array {
            $at = strrpos($time, '=');

            return $at === false
                ? throw new InvalidArgumentException("\"$time\" has no level. Write it as \"0 2 * * 0=full\".")
                : [trim(substr($time, 0, $at)), trim(substr($time, $at + 1))];
        }, $times);
        [$from, $until] = $hours === null ? [null, null] : array_map(trim(...), explode('-', $hours, 2) + [1 => '']);
        Timetable::of($pairs, $zone, $from, $until, Instant::of(now()));
        self::refuseLevels($of, array_column($pairs, 1));
        if ($copyFrom !== null) {
            Window::of($copyFrom, $copyFrom, $zone);
        }
        if ($store->read_only || $store->kind !== 'folder') {
            throw new InvalidArgumentException("Sets are made in a folder of ours; {$store->name} is not one. Copy them there after that.");
        }

        return Schedule::query()->updateOrCreate($of, [
            'store_id' => $store->id,
            'times' => $pairs,
            'zone' => $zone,
            'window_from' => $from,
            'window_until' => $until,
            'copy_to' => $copyTo,
            'copy_from' => $copyFrom,
            'before' => $before,
            'after' => $after,
            'limit_s' => $limit,
            'on' => $on,
            'considered_at' => now(),
        ]);
    }

    /**
     * A level that no set can be made of would fail every night.
     *
     * @param  array<string, int|string>  $of
     * @param  list<string>  $levels
     *
     * @throws InvalidArgumentException
     */
    private static function refuseLevels(array $of, array $levels): void
    {
        $workload = isset($of['workload_id']) ? Workload::query()->find($of['workload_id']) : null;
        if ($workload === null) {
            return;
        }
        $source = Kinds::of($workload)->source($workload);
        foreach ($levels as $level) {
            if (! $source->makes(Level::of($level))) {
                $words = implode(', ', array_keys($source->levels()));
                throw new InvalidArgumentException("No set of the level \"$level\" can be made of {$workload->name}. There are: $words.");
            }
        }
    }
}
