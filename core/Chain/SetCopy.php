<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

/** A set's archive on one store. */
final readonly class SetCopy
{
    public function __construct(
        public string $store,
        public CopyState $state = CopyState::Ok,
        /** @var list<string> what must be mounted to read it; one for a disk, several where a set spans cartridges */
        public array $media = [],
        /** Where it begins on the first of them; what lies further in takes longer to wind to. */
        public int $position = 0,
        /** @var list<string> of the media, those that a person must fetch from a shelf */
        public array $offline = [],
    ) {
    }

    /** @return list<string> the media, each named with its store */
    public function mediaKeys(): array
    {
        return match (count($this->media)) {
            0 => [$this->store."\0".$this->store],
            1 => [$this->store."\0".$this->media[0]],
            default => array_map(fn (string $medium): string => $this->store."\0".$medium, $this->media),
        };
    }
}
