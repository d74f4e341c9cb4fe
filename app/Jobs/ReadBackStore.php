<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Care\PlannedChecks;
use App\Models\Check;
use App\Models\Store;
use App\NamedLock;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Kaiseki\Core\Instant;

/** Reads back what the plan of one store asks for now, until its hours or its bytes are used up. */
final class ReadBackStore implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    /** Seconds after which a killed one is begun again. */
    public int $uniqueFor = 600;

    public function __construct(public readonly int $store)
    {
        $this->onQueue(Line::Plans->value);
    }

    public function uniqueId(): string
    {
        return (string) $this->store;
    }

    public function handle(): void
    {
        $store = Store::query()->find($this->store);
        if ($store !== null) {
            NamedLock::unlessHeld("plan {$store->id}", function () use ($store): void {
                $checks = (new PlannedChecks)->of($store, fn (): Instant => Instant::of(now()));
                ReckonStanding::begin(...array_unique(array_map(fn (Check $check): int => $check->workload_id, $checks)));
            });
        }
    }
}
