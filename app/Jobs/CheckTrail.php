<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Alarms\Causes;
use App\Trail\TrailCheck;
use App\Trail\TrailRule;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Lets go of the trail what its rule says, and goes through the rest once a night, so that a hole in it is heard of. */
final class CheckTrail implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 3600;

    public function __construct()
    {
        $this->onQueue(Line::Night->value);
    }

    public function handle(): void
    {
        TrailRule::carryOut();
        cache()->forever(Causes::TRAIL, TrailCheck::whole()->wrong);
    }
}
