<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Kinds\MakingOrder;
use App\Models\Making;
use App\Models\Schedule;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\Protection;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;
use RuntimeException;

/** Makes one set, and has it copied to the other stores of its schedule. */
final class MakeSet implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $making, public readonly ?int $schedule = null)
    {
        $this->onQueue(Line::Sets->value);
    }

    public static function begin(
        Workload $workload,
        Store $store,
        string $level,
        string $why,
        ?User $by = null,
        ?Schedule $schedule = null,
    ): Making {
        $making = Making::query()->create([
            'workload_id' => $workload->id,
            'store_id' => $store->id,
            'level' => Level::of($level)->name,
            'why' => $why,
            'state' => 'queued',
            'user_id' => $by?->id,
        ]);
        self::dispatch($making->id, $schedule?->id);

        return $making;
    }

    public function handle(): void
    {
        $making = Making::query()->with('workload', 'store')->find($this->making);
        if ($making === null || $making->state !== 'queued') {
            return;
        }
        $schedule = $this->schedule === null ? null : Schedule::query()->find($this->schedule);
        try {
            $set = Protection::make(
                $making->workload,
                new MakingOrder(
                    $making->store,
                    Level::of($making->level),
                    null,
                    function (int $entries) use ($making): void {
                        $making->update(['entries' => $entries]);
                    },
                    false,
                    $schedule->before ?? null,
                    $schedule->after ?? null,
                    $schedule->limit_s ?? 60,
                ),
                $making,
            );
            ReckonStanding::begin($making->workload_id);
        } catch (CannotRegister|InvalidArgumentException|RuntimeException $failure) {
            $making->update(['state' => 'failed', 'failure' => mb_scrub($failure->getMessage()), 'ended_at' => now()]);
            ReckonStanding::begin($making->workload_id);
            TrailEntry::add("No set was made of {$making->workload->name}: {$failure->getMessage()}", null, null);

            return;
        }
        foreach ($schedule->copy_to ?? [] as $name) {
            $store = Store::query()->where('name', $name)->first();
            if ($store !== null) {
                CopySetOn::dispatch($set->id, $store->id)->delay(
                    CopySetOn::notBefore($schedule->copy_from ?? null, $schedule->zone ?? 'UTC'),
                );
            }
        }
    }
}
