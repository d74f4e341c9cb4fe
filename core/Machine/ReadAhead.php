<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** A disk that is read from elsewhere: it can be told what is read next, so that this is on its way meanwhile. */
interface ReadAhead extends Disk
{
    public function ahead(int $from, int $length): void;
}
