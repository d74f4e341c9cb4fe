<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Annex;

use App\Jobs\Line;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Does in a machine what somebody ordered; the pages show what came of it. */
final class DoInside implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $change)
    {
        $this->onQueue(Line::Looks->value);
        $this->onConnection(config('queue.looks'));
    }

    public function handle(): void
    {
        $change = AnnexChange::query()->find($this->change);
        $change?->state === AnnexChange::WAITING && $change->carryOut();
    }
}
