<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use RuntimeException;

/** A disk image that is none, is damaged, or asks for what is not done for it. The words go on after its name. */
final class UnreadableImage extends RuntimeException
{
    private function __construct(string $message)
    {
        parent::__construct($message);
    }

    public static function because(string $because): self
    {
        return new self($because);
    }

    public static function damaged(string $where): self
    {
        return new self("is damaged: $where");
    }
}
