<?php

declare(strict_types=1);

namespace Kaiseki\Core;

use RuntimeException;

/** A file of ours that should be there is not, or cannot be read. */
final class UnableToRead extends RuntimeException
{
    private function __construct(public readonly string $path, string $message)
    {
        parent::__construct($message);
    }

    /** @param  string  $what  such as "The index" */
    public static function open(string $path, string $what): self
    {
        return new self($path, "$what $path cannot be read.");
    }
}
