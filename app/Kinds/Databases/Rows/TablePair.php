<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

/** A table before a transaction and after it. */
final class TablePair
{
    /**
     * @param  string  $before  the qualified name of its copy on the throw-away server
     * @param  list<string>  $columns  that it had before
     * @param  string|null  $after  its qualified name there afterwards; null if it was gone
     */
    public function __construct(
        public string $schema,
        public string $table,
        public string $before,
        public array $columns,
        public ?string $after = null,
    ) {
    }
}
