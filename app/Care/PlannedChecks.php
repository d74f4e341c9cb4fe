<?php

declare(strict_types=1);

namespace App\Care;

use App\Models\Check;
use App\Models\Copy;
use App\Models\Store;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Window;

/** Reading back by plan: on each store, within its hours and its bytes a night, what was checked longest ago comes first. */
final class PlannedChecks
{
    public function __construct(private readonly ReadBack $readBack = new ReadBack)
    {
    }

    /**
     * Reads one copy after the other until the hours or the bytes of this night are used up.
     *
     * @param  callable(): Instant  $now
     * @return list<Check>
     */
    public function of(Store $store, callable $now): array
    {
        if ($store->check_bytes_a_night === null) {
            return [];
        }
        $window = Window::of($store->check_from ?? '00:00', $store->check_until ?? '00:00', $store->check_zone);
        $began = $window->beginOf($now());
        $checks = [];
        while ($window->holds($now()) && $window->beginOf($now()) == $began) {
            $copy = $this->next($store, $began);
            if ($copy === null) {
                break;
            }
            try {
                $checks[] = $this->readBack->check($copy, null, true, function () use ($window, $now): void {
                    if (! $window->holds($now())) {
                        throw new HoursAreOver;
                    }
                });
            } catch (HoursAreOver) {
                break; // it is the first again tomorrow
            }
        }

        return $checks;
    }

    /**
     * The copy whose turn it is; null if the bytes left tonight do not suffice for it. One larger than a whole night's bytes is read
     * alone.
     */
    public function next(Store $store, Instant $began): ?Copy
    {
        $tonight = Check::query()
            ->where('store_name', $store->name)
            ->where('planned', true)
            ->where('at', '>=', $began->in()->format('Y-m-d H:i:s'));
        $read = (int) $tonight->sum('bytes');
        $copy = Copy::query()
            ->select('copies.*')
            ->with('store', 'set')
            ->where('copies.store_id', $store->id)
            ->whereIn('copies.state', ['ok', 'checked', 'damaged'])
            ->leftJoinSub(
                Check::query()->selectRaw('copy_id, MAX(id) AS last')->groupBy('copy_id'),
                'past',
                'past.copy_id',
                '=',
                'copies.id',
            )
            ->whereNotIn('copies.id', (clone $tonight)->whereNotNull('copy_id')->select('copy_id'))
            ->orderByRaw('past.last IS NOT NULL, past.last, copies.id')
            ->first();

        return $copy === null || ($read > 0 && $read + $copy->bytes > (int) $store->check_bytes_a_night) ? null : $copy;
    }
}
