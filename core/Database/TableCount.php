<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/** Rows of one table that a transaction inserted, updated and deleted, as the row events count them. */
final class TableCount
{
    public int $inserted = 0;

    public int $updated = 0;

    public int $deleted = 0;

    /** Whether a statement opened it without showing rows of it: a foreign key's CASCADE may have taken some. */
    public bool $mayHaveLost = false;

    public function __construct(public readonly string $schema, public readonly string $table)
    {
    }

    /** @param  int  $kind  WRITE, UPDATE or DELETE */
    public function add(int $kind, int $rows): void
    {
        match ($kind) {
            LogEvent::WRITE => $this->inserted += $rows,
            LogEvent::UPDATE => $this->updated += $rows,
            default => $this->deleted += $rows,
        };
    }

    public function rows(): int
    {
        return $this->inserted + $this->updated + $this->deleted;
    }
}
