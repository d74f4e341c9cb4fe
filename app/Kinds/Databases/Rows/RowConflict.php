<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

/** A row that somebody changed since, or that cannot come back, and stays as it is. */
final readonly class RowConflict
{
    /**
     * @param  string  $table  schema.table
     * @param  array<string, string|null>  $key  column => value, in UTF-8
     */
    public function __construct(
        public string $table,
        public array $key,
        public string $because,
    ) {
    }
}
