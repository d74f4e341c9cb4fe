<?php

declare(strict_types=1);

namespace App\Sets;

use App\Models\Store;
use App\Stores\StoredCopy;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\SetCopy;
use Kaiseki\Core\Tape\TapeSegment;

/** A copy of a set as it is now. */
final readonly class CopyOutline
{
    public function __construct(
        public int $id,
        public Store $store,
        public string $path,
        public int $bytes,
        /** @var list<TapeSegment> on tape */
        public array $segments,
        public CopyState $state,
        /** Why it is not readable, or what a person must do; null if there is nothing to say. */
        public ?string $because,
        /** @var list<string> its cartridges that stand on the shelf */
        public array $offline,
        /** For the rules of the chain. */
        public SetCopy $copy,
        /** Known for what lies on tape, so that no cartridge is loaded to find out. */
        public ?bool $gzipped = null,
        /** Damaged, and it is known which contents it no longer gives: the others it does. */
        public bool $isPartlyReadable = false,
        /** Which part of the set, from 0. */
        public int $part = 0,
    ) {
    }

    /** The same as if it were not there. */
    public function missing(string $because): self
    {
        return new self(
            $this->id,
            $this->store,
            $this->path,
            $this->bytes,
            $this->segments,
            CopyState::Missing,
            $because,
            [],
            new SetCopy($this->copy->store, CopyState::Missing, $this->copy->media),
            $this->gzipped,
            false,
            $this->part,
        );
    }

    public function stored(): StoredCopy
    {
        return new StoredCopy($this->path, $this->bytes, $this->segments, $this->gzipped);
    }

    /** @return list<string> the cartridges it lies on */
    public function media(): array
    {
        return $this->copy->media;
    }
}
