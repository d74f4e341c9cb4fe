<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Care\PlannedChecks;
use App\Models\Store;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Kaiseki\Core\Instant;

/** What the plans for reading back ask for now; one that was killed goes on when the next minute comes. */
final class ReadBackByPlan implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 600;

    public function handle(): void
    {
        foreach (Store::query()->whereNotNull('check_bytes_a_night')->orderBy('id')->get() as $store) {
            (new PlannedChecks)->of($store, fn (): Instant => Instant::of(now()));
        }
    }
}
