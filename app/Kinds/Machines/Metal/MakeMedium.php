<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Jobs\Line;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Makes a medium that somebody asked for on its page, which tells what came of it. */
final class MakeMedium implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $medium)
    {
        $this->onQueue(Line::Looks->value);
        $this->onConnection(config('queue.looks'));
    }

    public function handle(): void
    {
        try {
            KeptMedium::query()->find($this->medium)?->make();
        } catch (CannotMakeMedium) {
            return; // it is kept with it
        }
    }
}
