<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Care\ReadBack;
use App\Care\ReadingProgress;
use App\Models\Copy;
use App\Models\User;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\Cache;

/** Reads copies back one after the other, as somebody asked for, or since one turned out damaged. */
final class ReadBackCopies implements ShouldQueue
{
    use Queueable;

    private const KEPT_S = 3600;

    /** @param  list<int>  $copies  ids */
    public function __construct(public readonly array $copies, public readonly ?int $by = null, public readonly ?int $workload = null)
    {
        $this->onQueue(Line::Checks->value);
    }

    /** How far it is; null if nothing of the workload is being read back. */
    public static function progress(int $workload): ?ReadingProgress
    {
        $kept = Cache::get("read-back-$workload");
        $progress = is_array($kept) ? new ReadingProgress((int) $kept['done'], (int) $kept['all'], (int) $kept['wrong']) : null;

        return $progress !== null && $progress->done < $progress->all ? $progress : null;
    }

    /** @param  list<int>  $copies */
    public static function begin(array $copies, int $workload, ?User $by): void
    {
        Cache::put("read-back-$workload", ['done' => 0, 'all' => count($copies), 'wrong' => 0], self::KEPT_S);
        self::dispatch($copies, $by?->id, $workload);
    }

    public function handle(): void
    {
        $by = $this->by === null ? null : User::query()->find($this->by);
        $readBack = new ReadBack;
        $wrong = 0;
        $workloads = [];
        foreach ($this->copies as $done => $id) {
            $copy = Copy::query()->with('store', 'set')->find($id);
            if ($copy !== null) {
                $wrong += $readBack->check($copy, $by)->isRight() ? 0 : 1;
                $workloads[$copy->workload_id] = true;
            }
            if ($this->workload !== null) {
                Cache::put(
                    "read-back-{$this->workload}",
                    ['done' => $done + 1, 'all' => count($this->copies), 'wrong' => $wrong],
                    self::KEPT_S,
                );
            }
        }
        ReckonStanding::begin(...array_keys($workloads));
    }
}
