<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** What a set says of a block of one of its disks. */
enum BlockState: int
{
    /** It holds all of it. */
    case Here = 1;

    /** It holds some of it; the rest is as at its base. What it is as a whole is known. */
    case Partly = 2;

    /** Zeros. */
    case Zeros = 3;

    /** It holds some of it, and what the rest is nobody knows. */
    case Unknown = 4;
}
