<?php

declare(strict_types=1);

namespace App\Kinds;

/** What of the catalog is a kind's own, and goes into exports and night kits beside what all have. */
final readonly class ExportedParts
{
    /**
     * @param  list<string>  $tables  in an order in which rows can be brought back, after those of the sets
     * @param  list<string>  $indexes  endings of the files that are kept of a set
     */
    public function __construct(public array $tables = [], public array $indexes = [])
    {
    }
}
