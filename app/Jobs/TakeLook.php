<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Look;
use App\Runs\WorkerProcess;
use Closure;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Throwable;

/** Looks at what takes too long for a page, and keeps what was found. */
final class TakeLook implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $look)
    {
        $this->onQueue(Line::Looks->value);
        $this->onConnection(config('queue.looks'));
    }

    public function handle(): void
    {
        $taken = ['state' => 'running', 'worker' => WorkerProcess::own(), 'began_at' => now()->format('Y-m-d H:i:s.v')];
        if (Look::query()->where('id', $this->look)->where('state', 'waiting')->update($taken) === 0) {
            return;
        }
        $kept = Look::query()->findOrFail($this->look);
        $look = new $kept->type($kept->request, $kept->asked);
        if ($look->fingerprint() !== $kept->fingerprint) {
            $kept->delete(); // it was settled otherwise meanwhile: nobody asks for this any more

            return;
        }
        try {
            $found = $look->take(self::teller($kept));
            $kept->update(['state' => 'done', 'found' => $found, 'failure' => null, 'ended_at' => now()]);
        } catch (Throwable $failure) {
            $kept->update([
                'state' => 'failed',
                'failure' => mb_strimwidth(mb_scrub($failure->getMessage()), 0, 500, '…'),
                'ended_at' => now(),
            ]);
            report($failure);
        }
    }

    /** @return Closure(string): void that keeps what it is told: something new at once, figures that grow twice a second */
    private static function teller(Look $kept): Closure
    {
        $last = '';
        $at = 0;

        return function (string $words) use ($kept, &$last, &$at): void {
            $step = (string) preg_replace('/[\d.,]+ ?\w*/', '', $words);
            if ($step !== $last || hrtime(true) - $at > 500_000_000) {
                [$last, $at] = [$step, hrtime(true)];
                $kept->update(['told' => mb_strimwidth(mb_scrub($words), 0, 200, '…')]);
            }
        };
    }
}
