<?php

declare(strict_types=1);

namespace Kaiseki\Core\Tape;

/** Cartridges with labels, slots to keep them in, a drive, and a shelf outside from which a person must fetch. */
interface TapeLibrary
{
    public function answers(): bool;

    /**
     * @return list<Cartridge> by label, those on the shelf as well
     *
     * @throws UnableToUseTape
     */
    public function cartridges(): array;

    /**
     * Bytes of a cartridge: at most so many, '' at its end of data. Loads it if another is in the drive, and winds.
     *
     * @throws UnableToUseTape
     */
    public function read(string $label, int $position, int $length): string;

    /**
     * Writes a file behind what stands on the cartridge in use, and goes on on the next where that is full.
     *
     * @return list<TapeSegment>
     *
     * @throws UnableToUseTape
     */
    public function append(string $file): array;

    /** @throws UnableToUseTape */
    public function putIn(string $label): void;

    /** @throws UnableToUseTape */
    public function takeOut(string $label): void;

    /** Lets others use the drive. */
    public function release(): void;
}
