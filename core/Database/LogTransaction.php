<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/** One transaction of a binary log. */
final readonly class LogTransaction
{
    public function __construct(
        /** DOMAIN-SERVER-NUMBER; '' in a log without them. */
        public string $gtid,
        /** Offset of its first event. */
        public int $position,
        /** Offset behind its last event. */
        public int $end,
        /** Seconds since 1970 at which it was committed, as its first event says. */
        public int $at,
        /** The schema it is about; '' if it names none. */
        public string $schema,
        /** @var list<TableCount> */
        public array $tables,
        /** The statements as they were annotated or logged, with passwords masked; '' if there are none. */
        public string $statement,
        /** Whether it changes definitions: CREATE, ALTER, DROP, TRUNCATE, GRANT ... */
        public bool $isDefinition,
        /** Whether a statement that changes rows was logged as text: its rows are not known then. */
        public bool $hasTextStatement,
        /** Whether it was rolled back. */
        public bool $isUndone,
    ) {
    }

    public function rows(): int
    {
        return array_sum(array_map(fn (TableCount $count): int => $count->rows(), $this->tables));
    }

    /** @return array{int, int, int} inserted, updated, deleted */
    public function sums(): array
    {
        $sums = [0, 0, 0];
        foreach ($this->tables as $count) {
            $sums = [$sums[0] + $count->inserted, $sums[1] + $count->updated, $sums[2] + $count->deleted];
        }

        return $sums;
    }
}
