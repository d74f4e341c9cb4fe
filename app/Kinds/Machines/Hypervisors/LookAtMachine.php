<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Hypervisors;

use App\Jobs\Line;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** Turns a machine on or off, if that is wanted, and looks at it; the pages show what was found. */
final class LookAtMachine implements ShouldQueue
{
    use Queueable;

    /** What a machine that is being started has to say, it says after a moment. */
    private const SETTLES_MS = 700;

    public function __construct(public readonly int $look, public readonly ?Turn $turn)
    {
        $this->onQueue(Line::Looks->value);
        $this->onConnection(config('queue.looks'));
    }

    public function handle(): void
    {
        $look = MachineLook::query()->find($this->look);
        $host = HypervisorHost::query()->find($look?->hypervisor_id);
        if ($look === null || $host === null) {
            return;
        }
        try {
            $hypervisor = $host->open();
            if ($this->turn !== null) {
                $this->turn->carryOut($hypervisor, $look->machine);
                usleep(1000 * self::SETTLES_MS);
                $host->look();
            }
            $look->take($hypervisor);
        } catch (HypervisorFailure $failure) {
            $look->update(['state' => 'failed', 'failure' => mb_substr(mb_scrub($failure->getMessage()), 0, 500)]);
        }
    }
}
