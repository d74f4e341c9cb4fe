<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** What a layer says of an area of its disk. */
enum Held
{
    case Data;
    case Zeros;
    /** Nothing: it is as the layer below has it, and zeros where there is none. */
    case Below;
}
