<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use Kaiseki\Core\Database\LogPosition;
use Kaiseki\Core\Database\TableCount;

/** A transaction as the index of the logs has it. */
final readonly class LoggedTransaction
{
    /**
     * @param  list<TableCount>  $tables
     */
    private function __construct(
        public string $file,
        public int $position,
        public int $end,
        /** Seconds since 1970. */
        public int $at,
        public string $gtid,
        public string $schema,
        public int $inserted,
        public int $updated,
        public int $deleted,
        public bool $isDefinition,
        public bool $hasTextStatement,
        public bool $isUndone,
        public array $tables,
        public string $statement,
    ) {
    }

    public static function ofRow(object $row, string $file): self
    {
        return new self(
            $file,
            (int) $row->position,
            (int) $row->end,
            (int) $row->at,
            (string) $row->gtid,
            (string) $row->schema,
            (int) $row->inserted,
            (int) $row->updated,
            (int) $row->deleted,
            (bool) $row->definition,
            (bool) $row->text,
            (bool) $row->undone,
            TableCount::ofJson((string) $row->tables),
            (string) $row->statement,
        );
    }

    public function begins(): LogPosition
    {
        return new LogPosition($this->file, $this->position);
    }

    public function ends(): LogPosition
    {
        return new LogPosition($this->file, $this->end);
    }

    public function rows(): int
    {
        return $this->inserted + $this->updated + $this->deleted;
    }

    /**
     * Whether the log seems to hold every row that it changed: no definition, no statement as text, no table from which a key's CASCADE
     * may have taken rows.
     */
    public function showsItsRows(): bool
    {
        $hides = fn (TableCount $table): bool => $table->rows() === 0 || $table->mayHaveLost;

        return ! $this->isDefinition && ! $this->hasTextStatement && $this->tables !== [] && array_filter($this->tables, $hides) === [];
    }

    /** Its tables without their schemas, as much as fits into a column. */
    public function tableNames(): string
    {
        return mb_strimwidth(implode(', ', array_unique(array_column($this->tables, 'table'))), 0, 26, '…');
    }

    /** @param  string  $table  TABLE or SCHEMA.TABLE */
    public function isAbout(string $table): bool
    {
        foreach ($this->tables as $of) {
            if ($table === $of->table || $table === $of->name()) {
                return true;
            }
        }

        return false;
    }

    public function moment(): string
    {
        return gmdate('Y-m-d\TH:i:s\Z', $this->at);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'gtid' => $this->gtid,
            'file' => $this->file,
            'position' => $this->position,
            'end' => $this->end,
            'at' => $this->moment(),
            'schema' => $this->schema,
            'tables' => array_map(
                fn (TableCount $table): array => [
                    'schema' => $table->schema,
                    'table' => $table->table,
                    'inserted' => $table->inserted,
                    'updated' => $table->updated,
                    'deleted' => $table->deleted,
                ],
                $this->tables,
            ),
            'inserted' => $this->inserted,
            'updated' => $this->updated,
            'deleted' => $this->deleted,
            'statement' => $this->statement,
            'ddl' => $this->isDefinition,
        ];
    }
}
