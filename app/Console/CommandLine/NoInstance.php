<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use RuntimeException;

final class NoInstance extends RuntimeException
{
    public static function at(string $home): self
    {
        return new self(
            "No Kaiseki is running with the home $home. Start it with bin/start --background, or name another home with KAISEKI_HOME.",
        );
    }
}
