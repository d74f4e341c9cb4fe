<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

use InvalidArgumentException;

/** What no machine can be like. Its message is a sentence without its full stop. */
final class UnfitSettings extends InvalidArgumentException
{
    public static function because(string $because): self
    {
        return new self($because);
    }
}
