<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/** Rows of one table that a transaction inserted, updated and deleted, as the row events count them. */
final class TableCount
{
    public function __construct(
        public readonly string $schema,
        public readonly string $table,
        public int $inserted = 0,
        public int $updated = 0,
        public int $deleted = 0,
        /** Whether a statement opened it without showing rows of it: a foreign key's CASCADE may have taken some. */
        public bool $mayHaveLost = false,
    ) {
    }

    /** @return list<string|int> as an index keeps it: short, since there are millions; names in UTF-8 */
    public function kept(): array
    {
        return [
            mb_scrub($this->schema), mb_scrub($this->table), $this->inserted, $this->updated, $this->deleted, (int) $this->mayHaveLost,
        ];
    }

    /** @return list<self> of a JSON list of what kept() gave */
    public static function ofJson(string $kept): array
    {
        return array_map(
            fn (array $of): self => new self($of[0], $of[1], $of[2], $of[3], $of[4], ($of[5] ?? 0) === 1),
            array_values((array) json_decode($kept, true)),
        );
    }

    /** SCHEMA.TABLE */
    public function name(): string
    {
        return "$this->schema.$this->table";
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
