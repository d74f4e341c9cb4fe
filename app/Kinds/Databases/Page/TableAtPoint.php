<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Page;

/** A table as it is at a point. */
final readonly class TableAtPoint
{
    /**
     * @param  int|null  $rows  null where they cannot be counted
     * @param  int  $bytes  in the dump
     * @param  int  $changes  transactions since the dump
     * @param  int|null  $live  rows that it has now, about; null where that is not known
     */
    public function __construct(
        public string $schema,
        public string $table,
        public ?int $rows,
        public int $bytes,
        public int $changes,
        public ?int $live,
    ) {
    }
}
