<?php

declare(strict_types=1);

namespace App\Trees\Making;

use Kaiseki\Core\Chain\Level;

/** Which sets are made of a tree of files, wherever it is read from. */
trait LevelsOfTree
{
    public function levels(): array
    {
        return ['incr' => 'increment', 'diff' => 'differential', 'full' => 'full'];
    }

    public function makes(Level $level): bool
    {
        return ! $level->isLog() && ! $level->isSnapshot();
    }

    public function levelOfPresent(): string
    {
        return 'incr';
    }
}
