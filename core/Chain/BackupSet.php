<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use Kaiseki\Core\Instant;

/** What one backup wrote, as its outline: enough for the rule by sets. */
final readonly class BackupSet
{
    public function __construct(
        public string $id,
        public Level $level,
        /** The instant it is consistent for; of a live source the end of the reading. */
        public Instant $capturedAt,
        public int $bytes,
        /** @var list<SetCopy> */
        public array $copies,
        /** As recorded; null where none was, and it is assumed. */
        public ?string $base = null,
        public string $history = '',
        /** Consistent enough for its kind. */
        public bool $consistent = true,
        public bool $inDoubt = false,
    ) {
    }

    /** @return list<SetCopy> */
    public function readableCopies(): array
    {
        $readable = [];
        foreach ($this->copies as $copy) {
            if ($copy->state->isReadable()) {
                $readable[] = $copy;
            }
        }

        return $readable;
    }
}
