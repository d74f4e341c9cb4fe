<?php

declare(strict_types=1);

namespace App\Stores;

use App\Models\Copy;
use Kaiseki\Core\Tape\TapeSegment;

/** Where on a store a copy lies. */
final readonly class StoredCopy
{
    public function __construct(
        public string $path,
        public int $bytes,
        /** @var list<TapeSegment> */
        public array $segments = [],
        public ?bool $gzipped = null,
    ) {
    }

    public static function of(Copy $copy): self
    {
        return new self($copy->path, $copy->bytes, array_map(TapeSegment::fromArray(...), $copy->segments ?? []), $copy->gzipped);
    }

    /** @return list<string> the cartridges it lies on */
    public function media(): array
    {
        return array_map(fn (TapeSegment $segment): string => $segment->label, $this->segments);
    }
}
