<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

/** A table of which no rows can come back this way, and why. */
final readonly class ImpossibleTable
{
    public function __construct(public string $table, public string $because)
    {
    }

    public function words(): string
    {
        return "$this->table: $this->because";
    }
}
