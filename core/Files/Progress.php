<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** Is told how far the work is, and can end it. */
interface Progress
{
    /**
     * @throws UnableToRestore if the work is to stop
     */
    public function advanced(int $files, int $bytes): void;
}
