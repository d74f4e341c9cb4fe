<?php

declare(strict_types=1);

namespace Kaiseki\Core\Tape;

/** A part of a file on one cartridge; a file that spans cartridges has several, in their order. */
final readonly class TapeSegment
{
    public function __construct(
        public string $label,
        /** Byte on the cartridge at which it begins. */
        public int $position,
        public int $bytes,
    ) {
    }

    /** @return array{label: string, position: int, bytes: int} */
    public function toArray(): array
    {
        return ['label' => $this->label, 'position' => $this->position, 'bytes' => $this->bytes];
    }

    /** @param  array{label: string, position: int, bytes: int}  $segment */
    public static function fromArray(array $segment): self
    {
        return new self($segment['label'], $segment['position'], $segment['bytes']);
    }
}
