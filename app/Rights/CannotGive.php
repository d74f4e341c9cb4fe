<?php

declare(strict_types=1);

namespace App\Rights;

use InvalidArgumentException;

/** A rule that cannot be. */
final class CannotGive extends InvalidArgumentException
{
    public static function toGroup(): self
    {
        return new self('A group is letters, digits, spaces, dots and dashes, and at most 60 of them.');
    }

    /** @param  list<string>  $roles */
    public static function toRole(array $roles): self
    {
        return new self('Rights on targets are for '.implode('s and ', $roles).'s.');
    }
}
