<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use RuntimeException;

/** A layout, or what a machine says of its disks, that cannot be: written by hand, by somebody else, or damaged. */
final class UnfitLayout extends RuntimeException
{
    private function __construct(string $message)
    {
        parent::__construct($message);
    }

    /** @param  string  $where  such as "disks.0.bytes" */
    public static function at(string $where, string $because): self
    {
        return new self("$where $because");
    }
}
