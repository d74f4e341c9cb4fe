<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Runs\SetAsides;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Removes what was set aside long enough. */
final class ClearSetAsides implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 43200;

    public function __construct()
    {
        $this->onQueue(Line::Night->value);
    }

    public function handle(): void
    {
        SetAsides::clearOld();
    }
}
