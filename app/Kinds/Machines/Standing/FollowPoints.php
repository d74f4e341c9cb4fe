<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Jobs\Line;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\MetalStep;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Has each machine that follows take its next step, if that is due. */
final class FollowPoints implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 600;

    public function __construct()
    {
        $this->onQueue(Line::Looks->value);
        $this->onConnection(config('queue.looks'));
    }

    public function handle(): void
    {
        Following::now()->each(fn (Following $following) => (new FollowStep($following))->take());
        Enrolment::following()->each(fn (Enrolment $one) => (new MetalStep($one))->take());
    }
}
