<?php

declare(strict_types=1);

namespace App\Kinds;

/** A source whose sets leave out what App\Sets\LeftOut has of its workload. */
interface CanLeaveOut
{
    /** A pattern as one would be there, see Kaiseki\Core\Protect\Exclusion. */
    public function leftOutLike(): string;
}
