<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** How many things a deed is done to. */
final class DeedCount
{
    /**
     * @param  int  $entries  files, folders and all else
     * @param  int  $bytes  that come back
     */
    public function __construct(public int $entries = 0, public int $files = 0, public int $bytes = 0)
    {
    }
}
