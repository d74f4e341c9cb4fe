<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

/** What transactions did to a table. */
final class TableChanges
{
    public function __construct(
        public int $transactions = 0,
        public int $inserted = 0,
        public int $updated = 0,
        public int $deleted = 0,
    ) {
    }
}
