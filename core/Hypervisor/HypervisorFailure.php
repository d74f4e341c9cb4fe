<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

use RuntimeException;

/** A hypervisor does not answer, refuses, or says what nobody understands. Its message is a sentence without its full stop. */
final class HypervisorFailure extends RuntimeException
{
    /** @param  bool  $isSilent  whether it does not answer at all */
    private function __construct(string $message, public readonly bool $isSilent = false)
    {
        parent::__construct($message);
    }

    /** What it will not do. */
    public static function because(string $because): self
    {
        return new self($because);
    }

    public static function silent(string $name, string $because): self
    {
        return new self("The hypervisor $name does not answer: $because", true);
    }

    public static function nonsense(string $what): self
    {
        return new self("The hypervisor said what nobody understands: $what");
    }
}
