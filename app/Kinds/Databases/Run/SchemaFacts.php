<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Server\ServerLink;
use Kaiseki\Core\Database\Identifier;

/**
 * What is in a schema: its tables with rows and checksums, its other objects, its foreign keys.
 *
 * @phpstan-type ForeignKey array{
 *   name: string, schema: string, table: string, columns: list<string>,
 *   to_schema: string, to_table: string, to_columns: list<string>, rule: string
 * }
 */
final class SchemaFacts
{
    public function __construct(private readonly ServerLink $link, public readonly string $schema)
    {
    }

    /** @return list<string> */
    public function tables(): array
    {
        return $this->ofType('BASE TABLE', 'SYSTEM VERSIONED');
    }

    /** @return list<string> tables that keep their own history: a dump holds none of it, and their checksum is of the times of it too */
    public function versioned(): array
    {
        return $this->ofType('SYSTEM VERSIONED');
    }

    /** @return list<string> */
    public function sequences(): array
    {
        return $this->ofType('SEQUENCE');
    }

    /** @return list<string> */
    public function views(): array
    {
        return $this->ofType('VIEW');
    }

    /** @return list<string> */
    private function ofType(string ...$types): array
    {
        return $this->link->column(
            'SELECT table_name FROM information_schema.tables WHERE table_schema = ? AND table_type IN ('.
                implode(',', array_fill(0, count($types), '?')).
                ') ORDER BY table_name',
            [$this->schema, ...$types],
        );
    }

    /** @return list<array{type: string, name: string}> PROCEDURE, FUNCTION or PACKAGE */
    public function routines(): array
    {
        return array_map(
            fn (array $row): array => ['type' => (string) $row['type'], 'name' => (string) $row['name']],
            $this->link->rows(
                'SELECT routine_type AS type, routine_name AS name FROM information_schema.routines WHERE routine_schema = ? ORDER BY '.
                    'routine_type, routine_name',
                [$this->schema],
            ),
        );
    }

    /** @return array<string, string> trigger => its table */
    public function triggers(): array
    {
        $triggers = [];
        foreach (
            $this->link->rows(
                'SELECT trigger_name AS name, event_object_table AS of FROM information_schema.triggers WHERE trigger_schema = ? ORDER '.
                    'BY event_object_table, action_timing, event_manipulation, action_order',
                [$this->schema],
            ) as $row
        ) {
            $triggers[(string) $row['name']] = (string) $row['of'];
        }

        return $triggers;
    }

    /** @return list<string> */
    public function events(): array
    {
        return $this->link->column('SELECT event_name FROM information_schema.events WHERE event_schema = ? ORDER BY event_name', [
            $this->schema,
        ]);
    }

    /** @return list<string> everything that may stand behind the name of the schema and a dot */
    public function names(): array
    {
        return [
            ...$this->tables(),
            ...$this->sequences(),
            ...$this->views(),
            ...array_column($this->routines(), 'name'),
            ...array_map(strval(...), array_keys($this->triggers())),
            ...$this->events(),
        ];
    }

    /** @return array<string, int> kind => how many */
    public function counts(): array
    {
        return [
            'tables' => count($this->tables()),
            'sequences' => count($this->sequences()),
            'views' => count($this->views()),
            'triggers' => count($this->triggers()),
            'routines' => count($this->routines()),
            'events' => count($this->events()),
        ];
    }

    /**
     * @param  list<string>|null  $tables
     * @return array<string, TableContents>
     */
    public function contents(?array $tables = null): array
    {
        $contents = [];
        $versioned = $this->versioned();
        foreach ($tables ?? $this->tables() as $table) {
            $name = Workbench::name($this->schema, $table);
            $contents[$table] = new TableContents(
                (int) $this->link->one("SELECT COUNT(*) FROM $name"),
                in_array($table, $versioned, true) ? null : $this->link->rows("CHECKSUM TABLE $name")[0]['Checksum'] ?? null,
            );
        }

        return $contents;
    }

    /**
     * @param  list<string>|null  $only
     * @return array<string, int> as counted one by one
     */
    public function rowCounts(?array $only = null): array
    {
        $counts = [];
        foreach ($only === null ? $this->tables() : array_intersect($this->tables(), $only) as $table) {
            $counts[$table] = (int) $this->link->one('SELECT COUNT(*) FROM '.Workbench::name($this->schema, $table));
        }

        return $counts;
    }

    /** @return list<ForeignKey> foreign keys of its tables, and those of others that point into it */
    public function foreignKeys(): array
    {
        /** @var array<string, ForeignKey> $keys */
        $keys = [];
        foreach (
            $this->link->rows(
                'SELECT k.constraint_name AS name, k.table_schema AS of_schema, k.table_name AS of_table, k.column_name AS of_column,
                    k.referenced_table_schema AS to_schema, k.referenced_table_name AS to_table, k.referenced_column_name AS to_column,
                CONCAT("ON DELETE ", r.delete_rule, " ON UPDATE ", r.update_rule) AS rule
             FROM information_schema.key_column_usage k
             JOIN information_schema.referential_constraints r ON r.constraint_schema = k.constraint_schema
                AND r.constraint_name = k.constraint_name
                AND r.table_name = k.table_name
             WHERE k.referenced_table_name IS NOT NULL AND (k.table_schema = ? OR k.referenced_table_schema = ?) ORDER BY k.table_schema,
             k.table_name, k.constraint_name, k.ordinal_position',
                [$this->schema, $this->schema],
            ) as $row
        ) {
            $key = &$keys["{$row['of_schema']}\0{$row['of_table']}\0{$row['name']}"];
            $key ??= [
                'name' => (string) $row['name'],
                'schema' => (string) $row['of_schema'],
                'table' => (string) $row['of_table'],
                'columns' => [],
                'to_schema' => (string) $row['to_schema'],
                'to_table' => (string) $row['to_table'],
                'to_columns' => [],
                'rule' => (string) $row['rule'],
            ];
            $key['columns'][] = (string) $row['of_column'];
            $key['to_columns'][] = (string) $row['to_column'];
            unset($key);
        }

        return array_values($keys);
    }

    /**
     * Rows that point at nothing.
     *
     * @param  list<string>|null  $tables  only keys of or into these
     * @return array<string, int> TABLE.KEY => rows
     */
    public function orphans(?array $tables = null): array
    {
        $orphans = [];
        foreach ($this->foreignKeys() as $key) {
            if ($tables !== null && ! in_array($key['table'], $tables, true) && ! in_array($key['to_table'], $tables, true)) {
                continue;
            }
            $on = implode(
                ' AND ',
                array_map(
                    fn (string $column, string $to): string => 'p.'.Identifier::quoted($to).' = c.'.Identifier::quoted($column),
                    $key['columns'],
                    $key['to_columns'],
                ),
            );
            $set = implode(
                ' AND ',
                array_map(fn (string $column): string => 'c.'.Identifier::quoted($column).' IS NOT NULL', $key['columns']),
            );
            // A table that is not there can be pointed at.
            $isThere =
                $this->link->one('SELECT 1 FROM information_schema.tables WHERE table_schema = ? AND table_name = ?', [
                    $key['to_schema'],
                    $key['to_table'],
                ]) !== null;
            $count = (int) $this->link->one(
                'SELECT COUNT(*) FROM '.
                    Workbench::name($key['schema'], $key['table']).
                    ' c'.
                    ($isThere
                        ? ' LEFT JOIN '.
                            Workbench::name($key['to_schema'], $key['to_table']).
                            " p ON $on WHERE $set AND p.".
                            Identifier::quoted($key['to_columns'][0]).
                            ' IS NULL'
                        : " WHERE $set"),
            );
            if ($count > 0) {
                $orphans["{$key['table']}.{$key['name']}"] = $count;
            }
        }

        return $orphans;
    }

    /**
     * @param  array<string, int>  $orphans
     * @return list<string>
     */
    public static function orphansInWords(array $orphans): array
    {
        return array_map(
            fn (string $key, int $rows): string => "$key: $rows rows point at nothing",
            array_keys($orphans),
            array_values($orphans),
        );
    }

    /** @return list<Column> in their order, invisible ones too */
    public function columns(string $table): array
    {
        return array_map(
            fn (array $row): Column => new Column((string) $row['name'], $row['charset'] !== null, $row['generated'] !== 'NEVER'),
            $this->link->rows(
                'SELECT column_name AS name, character_set_name AS charset, is_generated AS generated FROM information_schema.columns '.
                    'WHERE table_schema = ? AND table_name = ? ORDER BY ordinal_position',
                [$this->schema, $table],
            ),
        );
    }

    /**
     * @return list<string> columns by which one row is told from all others: the primary key, else a unique one without NULLs; none if
     *     there is none
     */
    public function key(string $table): array
    {
        $keys = [];
        foreach ($this->uniqueKeys($table) as $name => $columns) {
            $nullable = (int) $this->link->one(
                'SELECT COUNT(*) FROM information_schema.columns WHERE table_schema = ? AND table_name = ? AND is_nullable = "YES" AND '.
                    'column_name IN ('.
                    implode(',', array_fill(0, count($columns), '?')).
                    ')',
                [$this->schema, $table, ...$columns],
            );
            if ($nullable === 0) {
                $keys[$name] = $columns;
            }
        }

        return $keys['PRIMARY'] ?? (array_values($keys)[0] ?? []);
    }

    /** @return array<string, list<string>> unique keys over whole columns */
    public function uniqueKeys(string $table): array
    {
        $keys = $partial = [];
        foreach (
            $this->link->rows(
                'SELECT index_name AS name, column_name AS col, sub_part AS part FROM information_schema.statistics WHERE table_schema = '.
                    '? AND table_name = ? AND non_unique = 0 ORDER BY index_name, seq_in_index',
                [$this->schema, $table],
            ) as $row
        ) {
            $keys[(string) $row['name']][] = (string) $row['col'];
            if ($row['part'] !== null) {
                $partial[(string) $row['name']] = true;
            }
        }

        return array_diff_key($keys, $partial);
    }
}
