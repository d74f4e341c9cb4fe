<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

final class NoProgress implements Progress
{
    public function advanced(int $files, int $bytes): void
    {
    }
}
