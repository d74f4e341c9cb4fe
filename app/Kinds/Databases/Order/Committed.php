<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

/** What was committed behind a position. */
final class Committed
{
    /**
     * @param  int|null  $first  when, in seconds
     * @param  int|null  $last  when, in seconds
     * @param  array<string, TableChanges>  $tables  SCHEMA.TABLE => what was done to it, the most first
     */
    public function __construct(
        public int $transactions = 0,
        public ?int $first = null,
        public ?int $last = null,
        public array $tables = [],
    ) {
    }
}
