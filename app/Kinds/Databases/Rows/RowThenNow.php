<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

/** A row as it was at a point, beside the live one of the same key. */
final readonly class RowThenNow
{
    /**
     * @param  array<string, string|null>  $then  column => value
     * @param  array<string, string|null>|null  $now  null where no row has that key now
     */
    public function __construct(public array $then, public ?array $now)
    {
    }

    /** @return list<string> columns in which the live row is another */
    public function changed(): array
    {
        $columns = array_map(strval(...), array_keys($this->then));
        $now = $this->now ?? $this->then;

        return array_values(
            array_filter($columns, fn (string $column): bool => array_key_exists($column, $now) && $now[$column] !== $this->then[$column]),
        );
    }
}
