<?php

declare(strict_types=1);

namespace Kaiseki\Core\Tape;

final readonly class Cartridge
{
    public function __construct(
        public string $label,
        /** In which slot of the library it stands; null while it is on the shelf outside. */
        public ?int $slot,
        /** Bytes. */
        public int $capacity,
        public int $used,
    ) {
    }

    public function isOnShelf(): bool
    {
        return $this->slot === null;
    }
}
