<?php

declare(strict_types=1);

namespace Kaiseki\Core\Names;

use RuntimeException;

/** A name server does not answer, does not do what it was asked for, or is asked for what it should not be. */
final class NameFailure extends RuntimeException
{
    private function __construct(string $message, public readonly bool $hasChanged)
    {
        parent::__construct($message);
    }

    public static function because(string $why): self
    {
        return new self($why, false);
    }

    /** Somebody else has changed what a name leads to. */
    public static function changed(string $name): self
    {
        return new self("$name does not lead where it did any more: somebody has changed it", true);
    }
}
