<?php

declare(strict_types=1);

namespace Kaiseki\Core\Tape;

use RuntimeException;

final class UnableToUseTape extends RuntimeException
{
    public static function onTheShelf(string $label): self
    {
        return new self("the cartridge $label is on the shelf, not in the library");
    }

    public static function unknown(string $label): self
    {
        return new self("there is no cartridge $label");
    }

    public static function noAnswer(): self
    {
        return new self('the tape library does not answer');
    }

    public static function full(): self
    {
        return new self('no cartridge in the library has room left');
    }

    public static function noSlot(): self
    {
        return new self('no slot of the library is free');
    }

    public static function badSpot(string $label, int $position): self
    {
        return new self("the cartridge $label cannot be read at byte $position");
    }
}
