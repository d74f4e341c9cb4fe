<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

/** Rows of a table as they were at a point, beside the live ones, as they were found. */
final readonly class TableRows
{
    /**
     * @param  list<string>  $columns
     * @param  list<string>  $key  columns
     * @param  list<RowThenNow>  $rows  the first of them
     * @param  int|null  $count  of all
     * @param  string|null  $problem  why they could not be found
     */
    private function __construct(
        public string $schema,
        public string $table,
        public string $search,
        public array $columns,
        public array $key,
        public array $rows,
        public ?int $count,
        public ?string $problem,
    ) {
    }

    public static function by(TableRead $read): self
    {
        return new self(
            $read->schema,
            $read->table,
            $read->search,
            $read->columns,
            $read->key,
            $read->rows,
            $read->count,
            $read->problem,
        );
    }

    /** @param  array<string, mixed>  $found  as toArray() gives it */
    public static function fromArray(array $found): self
    {
        return new self(
            (string) ($found['schema'] ?? ''),
            (string) ($found['table'] ?? ''),
            (string) ($found['search'] ?? ''),
            (array) ($found['columns'] ?? []),
            (array) ($found['key'] ?? []),
            array_map(
                fn (array $row): RowThenNow => new RowThenNow($row['then'], $row['now']),
                array_values((array) ($found['rows'] ?? [])),
            ),
            isset($found['count']) ? (int) $found['count'] : null,
            $found['problem'] ?? null,
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['rows' => array_map(get_object_vars(...), $this->rows)] + get_object_vars($this);
    }
}
