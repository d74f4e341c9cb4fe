<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Kinds\Databases\Run\Column;
use App\Kinds\Databases\Run\Workbench;

/** A table whose rows are brought to what they were. */
final readonly class RowTable
{
    /**
     * @param  int  $n  by which its working tables are named: before_1, keys_1
     * @param  list<string>  $key  columns by which one row is told from all others
     * @param  list<Column>  $columns  of the live table, in its order
     * @param  list<string>  $known  columns whose values before and after are known
     */
    public function __construct(
        public string $schema,
        public string $table,
        public int $n,
        public array $key,
        public array $columns,
        public array $known,
        public RowCounts $counts = new RowCounts,
    ) {
    }

    public function withCounts(RowCounts $counts): self
    {
        return new self($this->schema, $this->table, $this->n, $this->key, $this->columns, $this->known, $counts);
    }

    /** schema.table */
    public function name(): string
    {
        return "{$this->schema}.{$this->table}";
    }

    /** One of its working tables on the throw-away server: before, after, keys, ins, new, old, del. */
    public function working(string $as): string
    {
        return Workbench::name(RowWork::WORK, "{$as}_{$this->n}");
    }

    /** The live rows of it, on the throw-away server. */
    public function live(): string
    {
        return Workbench::name(RowWork::LIVE, "t{$this->n}");
    }

    /** @return list<string> columns that can be written */
    public function own(): array
    {
        return Column::names(RowTerms::own($this->columns));
    }

    /** @param  array<string, mixed>  $kept  as toArray() gives it, also by a version before */
    public static function fromArray(array $kept): self
    {
        return new self(
            (string) $kept['schema'],
            (string) $kept['table'],
            (int) $kept['n'],
            array_map(strval(...), array_values((array) $kept['key'])),
            array_map(
                fn (array $column): Column => new Column((string) $column['name'], (bool) $column['text'], (bool) $column['generated']),
                array_values((array) $kept['columns']),
            ),
            array_map(strval(...), array_values((array) $kept['known'])),
            RowCounts::fromArray($kept),
        );
    }

    /** @return array<string, mixed> by which a run that was stopped goes on, and is put back */
    public function toArray(): array
    {
        return ['n' => $this->n, 'columns' => array_map(get_object_vars(...), $this->columns)] + $this->told();
    }

    /**
     * @return array{schema: string, table: string, key: list<string>, known: list<string>, insert: int, set_back: int, remove: int,
     *     same: int, left: int, conflicts: int} as proofs and pages tell it
     */
    public function told(): array
    {
        $told = ['schema' => $this->schema, 'table' => $this->table, 'key' => $this->key, 'known' => $this->known];

        return $told + $this->counts->toArray();
    }
}
