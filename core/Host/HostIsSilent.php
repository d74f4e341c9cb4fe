<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use RuntimeException;

/** The other side of a wire is not there, has gone, or says what nobody understands. */
final class HostIsSilent extends RuntimeException
{
    public static function at(string $path, int $error): self
    {
        return new self("The process of the host does not answer at $path: ".socket_strerror($error));
    }

    public static function ended(): self
    {
        return new self('The process of the host has ended.');
    }

    public static function nonsense(): self
    {
        return new self('What came over the wire is no message.');
    }
}
