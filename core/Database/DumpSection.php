<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/** A part of a dump that is about one thing. */
final class DumpSection
{
    public const HEADER = 'header';

    public const SCHEMA = 'schema';

    public const TABLE = 'table';

    public const DATA = 'data';

    public const TRIGGERS = 'triggers';

    public const SEQUENCE = 'sequence';

    public const VIEW_STUB = 'view-stub';

    public const VIEW = 'view';

    public const EVENTS = 'events';

    public const ROUTINES = 'routines';

    public const TRAILER = 'trailer';

    /** Uncompressed bytes. */
    public int $bytes = 0;

    /** Where its gzip member begins in the file; null if it has none of its own. */
    public ?int $member = null;

    public function __construct(
        public readonly string $kind,
        /** '' in a dump that does not name it. */
        public readonly string $schema,
        public readonly string $name,
        /** Uncompressed offset. */
        public readonly int $start,
    ) {
    }

    /** @return array{string, string, string, int, int, int|null} */
    public function toArray(): array
    {
        return [$this->kind, $this->schema, $this->name, $this->start, $this->bytes, $this->member];
    }

    /** @param  array{string, string, string, int, int, int|null}  $row */
    public static function fromArray(array $row): self
    {
        $section = new self($row[0], $row[1], $row[2], $row[3]);
        [$section->bytes, $section->member] = [$row[4], $row[5]];

        return $section;
    }
}
