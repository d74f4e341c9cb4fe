<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use RuntimeException;

/** A partition table or file system that is none, is damaged, or has something that is not read. The words go on after its name. */
final class UnreadableVolume extends RuntimeException
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
