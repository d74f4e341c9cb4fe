<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Kinds\Databases\Run\Column;
use App\Kinds\Databases\Run\ExactFloats;
use App\Kinds\Databases\Run\SchemaCopy;
use App\Kinds\Databases\Run\SchemaFacts;
use App\Kinds\Databases\Run\Workbench;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\Tools;
use Kaiseki\Core\Database\Identifier;
use Kaiseki\Core\Database\RowTwin;
use Kaiseki\Core\Database\TableCount;
use Kaiseki\Core\Database\TouchRange;
use PDOException;

/**
 * Brings rows of live tables to what they were, by their keys, where nobody changed them since. On a throw-away server
 * stand, for each table, the rows before the transaction, those after it, and the live ones; what is to be done comes of
 * comparing the three. It is done in one transaction on the live server, which compares again and checks every row.
 */
final class RowWork
{
    /** Schemas on the throw-away server. */
    public const BEFORE = 'kaiseki_before';

    public const AFTER = 'kaiseki_after';

    public const LIVE = 'kaiseki_live';

    public const WORK = 'kaiseki_work';

    private const NO_KEY = 'it has no primary key, nor another unique one without NULLs: its rows cannot be told apart';

    private const GONE = 'it is not there any more: bring the whole table back';

    /** Up to so many touched rows the live ones are asked for by key, beyond that the whole table. */
    private const BY_KEY = 1000;

    /** @var list<RowTable> */
    public array $tables = [];

    /** @var list<RowConflict> the first of each table */
    public array $conflicts = [];

    /** @var list<ImpossibleTable> tables of which nothing can be done */
    public array $impossible = [];

    /** @var list<string> */
    public array $remarks = [];

    /** @param  bool  $removesAdded  whether rows that the transaction added go again */
    public function __construct(
        private readonly ServerLink $bench,
        private readonly ServerLink $live,
        private readonly bool $removesAdded,
        private readonly bool $takeConflicts,
    ) {
        foreach ([self::BEFORE, self::AFTER, self::LIVE, self::WORK] as $schema) {
            if (! $bench->hasSchema($schema)) {
                $bench->createSchema($schema);
            }
        }
    }

    /** Empty tables for the images of a table, as the live server defines it: all its columns, and one that counts. */
    public function makeTwin(string $schema, string $table, string $twin): bool
    {
        $definition = $this->define($schema, $table);
        if ($definition === null) {
            $this->leave($schema, $table, self::GONE);

            return false;
        }
        foreach ([self::BEFORE, self::AFTER] as $side) {
            $this->bench->exec(
                'CREATE TABLE '.
                    Workbench::name($side, $twin).
                    ' SELECT '.
                    RowTerms::list(Column::names($this->columns($schema, $table))).
                    ' FROM '.
                    Workbench::name(self::WORK, $table).
                    ' LIMIT 0',
            );
            $this->bench->exec(
                'ALTER TABLE '.Workbench::name($side, $twin).' ADD kaiseki_touch BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY',
            );
        }

        return true;
    }

    /** The live definition, made on the throw-away server under the table's own name; null if there is no such table. */
    private function define(string $schema, string $table): ?string
    {
        try {
            $sql = (string) $this->live->rows('SHOW CREATE TABLE '.Workbench::name($schema, $table))[0]['Create Table'];
        } catch (PDOException) {
            return null;
        }
        $this->bench->exec("SET foreign_key_checks = 0, sql_mode = 'NO_AUTO_VALUE_ON_ZERO'");
        $this->bench->exec('USE '.self::WORK);
        $this->bench->exec('DROP TABLE IF EXISTS '.Identifier::quoted($table));
        $this->bench->exec(preg_replace('/\bDEFAULT \(?nextval\([^)]*\)\)?/i', '', $sql) ?? $sql);

        return $sql;
    }

    /** @return list<Column> */
    private function columns(string $schema, string $table): array
    {
        return (new SchemaFacts($this->live, $schema))->columns($table);
    }

    /**
     * Tables that keep a history of their own are left: each change of a row is an entry in it, and none is to be forged.
     *
     * @param  list<TableCount>  $tables
     * @return list<string> "schema\0table"
     */
    public function leaveVersioned(array $tables): array
    {
        $left = [];
        foreach ($tables as $table) {
            if (in_array($table->table, (new SchemaFacts($this->live, $table->schema))->versioned(), true)) {
                $this->leave(
                    $table->schema,
                    $table->table,
                    'it keeps a history of its rows (system versioning), which has them still: SELECT ... FOR SYSTEM_TIME AS OF the '.
                        'moment before',
                );
                $left[] = "{$table->schema}\0{$table->table}";
            }
        }

        return $left;
    }

    /** Which row of a twin was touched by which of the transaction's changes. */
    private static function numbers(string $side, string $twin): string
    {
        return Workbench::name($side, "{$twin}_changes");
    }

    /**
     * From the images of a transaction: each row as it was before its first change and after its last.
     *
     * @param  list<RowTwin>  $twins
     * @param  list<TouchRange>  $ranges
     */
    public function settleImages(array $twins, array $ranges): void
    {
        foreach ($twins as $twin) {
            $this->numberRows(self::BEFORE, $twin->twin);
            $this->numberRows(self::AFTER, $twin->twin);
        }
        foreach ($ranges as $range) {
            $numbers = self::numbers($range->isAfter ? self::AFTER : self::BEFORE, $range->twin);
            $this->bench->exec(
                "UPDATE $numbers SET change_no = row_no + $range->delta WHERE row_no BETWEEN $range->first AND $range->last",
            );
        }
        foreach ($twins as $n => $twin) {
            $key = (new SchemaFacts($this->live, $twin->schema))->key($twin->table);
            if ($key === []) {
                $this->leave($twin->schema, $twin->table, self::NO_KEY);

                continue;
            }
            $names = Column::names($this->columns($twin->schema, $twin->table));
            foreach ([self::BEFORE, self::AFTER] as $side) {
                $this->bench->exec(
                    'ALTER TABLE '.Workbench::name($side, $twin->twin).' ADD INDEX kaiseki_key ('.RowTerms::list($key).')',
                );
            }
            $this->settleSide('before', $n, $twin->twin, $key, $names);
            $this->settleSide('after', $n, $twin->twin, $key, $names);
            $this->add($n, $twin->schema, $twin->table, $key, $names);
        }
    }

    /** The server counts the rows as they come, but with gaps. In a table of its own: an UPDATE of the rows would set their times. */
    private function numberRows(string $side, string $twin): void
    {
        $this->bench->exec(
            'CREATE TABLE '.
                self::numbers($side, $twin).
                ' (touch BIGINT UNSIGNED PRIMARY KEY, row_no BIGINT UNSIGNED NOT NULL UNIQUE, change_no BIGINT UNSIGNED NOT NULL '.
                'DEFAULT 0) SELECT kaiseki_touch AS touch, ROW_NUMBER() OVER (ORDER BY kaiseki_touch) AS row_no FROM '.
                Workbench::name($side, $twin),
        );
    }

    /**
     * Of each row its first image before (or its last after), unless an earlier (later) one of the other side says that it was not there.
     *
     * @param  list<string>  $key
     * @param  list<string>  $names
     */
    private function settleSide(string $as, int $n, string $twin, array $key, array $names): void
    {
        [$side, $other] = $as === 'before' ? [self::BEFORE, self::AFTER] : [self::AFTER, self::BEFORE];
        [$which, $goesBy] = $as === 'before' ? ['MIN', '<='] : ['MAX', '>='];
        $images = fn (string $of, string $alias): string => Workbench::name($of, $twin)." $alias JOIN ".self::numbers($of, $twin).
            " m ON m.touch = $alias.kaiseki_touch";
        $touched = fn (string $of): string => 'SELECT '.RowTerms::list($key, 'r').", $which(m.change_no) AS change_no FROM ".
            $images($of, 'r').' GROUP BY '.RowTerms::list($key, 'r');
        $this->bench->exec(
            'CREATE TABLE '.Workbench::name(self::WORK, "{$as}_$n").' SELECT '.RowTerms::list($names, 'i').' FROM '.$images($side, 'i').
                " JOIN ({$touched($side)}) f ON ".RowTerms::on($key, 'i', 'f').' AND m.change_no = f.change_no'.
                " LEFT JOIN ({$touched($other)}) o ON ".RowTerms::on($key, 'o', 'f').
                " WHERE o.change_no IS NULL OR f.change_no $goesBy o.change_no",
        );
    }

    private function leave(string $schema, string $table, string $because): void
    {
        $this->impossible[] = new ImpossibleTable("$schema.$table", $because);
    }

    /**
     * From whole tables: the rows that differ. `before` is a copy of the table, `after` the table as it is there now; where the live one
     * has other columns, those that both have count.
     *
     * @param  list<TablePair>  $pairs
     */
    public function settleTables(array $pairs): void
    {
        $left = $this->leaveVersioned(array_map(fn (TablePair $pair): TableCount => new TableCount($pair->schema, $pair->table), $pairs));
        foreach ($pairs as $n => $pair) {
            [$schema, $table] = [$pair->schema, $pair->table];
            if (in_array("$schema\0$table", $left, true)) {
                continue;
            }
            if ($this->define($schema, $table) === null) {
                $this->leave($schema, $table, self::GONE);

                continue;
            }
            $columns = array_values(
                array_filter($this->columns($schema, $table), fn (Column $column): bool => in_array($column->name, $pair->columns, true)),
            );
            $key = (new SchemaFacts($this->live, $schema))->key($table);
            if ($key === [] || array_diff($key, Column::names($columns)) !== []) {
                $this->leave($schema, $table, $key === [] ? self::NO_KEY : 'its key has columns now that it did not have then');

                continue;
            }
            $this->bench->exec("ALTER TABLE {$pair->before} ADD INDEX kaiseki_key (".RowTerms::list($key).')');
            try {
                $this->keepDiffering("before_$n", $pair->before, $pair->after, $key, $columns, $table);
                $this->keepDiffering("after_$n", $pair->after, $pair->before, $key, $columns, $table);
            } catch (PDOException $failure) {
                $this->leave($schema, $table, 'it had other columns then: '.mb_scrub($failure->getMessage()));

                continue;
            }
            $this->add($n, $schema, $table, $key, Column::names($columns));
        }
    }

    /**
     * @param  string|null  $of  null: the table was not there, and there are none
     * @param  string|null  $other  null: all of them differ
     * @param  list<string>  $key
     * @param  list<Column>  $columns
     */
    private function keepDiffering(string $into, ?string $of, ?string $other, array $key, array $columns, string $table): void
    {
        $names = RowTerms::list(Column::names($columns), 'x');
        $this->bench->exec(
            'CREATE TABLE '.
                Workbench::name(self::WORK, $into).
                " SELECT $names FROM ".
                match (true) {
                    $of === null => Workbench::name(self::WORK, $table).' x LIMIT 0',
                    $other === null => "$of x",
                    default => "$of x LEFT JOIN $other y ON ".
                        RowTerms::on($key, 'x', 'y').
                        ' AND '.
                        RowTerms::same($columns, 'x', 'y').
                        ' WHERE y.'.
                        Identifier::quoted($key[0]).
                        ' IS NULL',
                },
        );
    }

    /**
     * @param  list<string>  $key
     * @param  list<string>  $known  columns whose values before and after are known
     */
    private function add(int $n, string $schema, string $table, array $key, array $known): void
    {
        $settled = new RowTable($schema, $table, $n, $key, $this->columns($schema, $table), $known);
        $new = array_diff($settled->own(), $known);
        if ($new !== []) {
            $this->remarks[] =
                "$schema.$table has columns now that it did not have then: ".
                implode(', ', $new).
                '. In rows that are set back they stay as they are, in rows that are put in they take their defaults.';
        }
        foreach (['before', 'after'] as $side) {
            $this->bench->exec("ALTER TABLE {$settled->working($side)} ADD PRIMARY KEY (".RowTerms::list($key).')');
        }
        $this->tables[] = $settled;
    }

    /** Compares with the live rows, and settles what is to be done. */
    public function decide(): void
    {
        foreach ($this->tables as $i => $table) {
            $this->bringLive($table);
            $decision = new RowDecision($this->bench, $this->live, $table);
            $this->tables[$i] = $table->withCounts($decision->settle($this->removesAdded, $this->takeConflicts));
            $this->conflicts = [...$this->conflicts, ...$decision->conflicts()];
            $left = $this->tables[$i]->counts->left;
            if ($left > 0) {
                $this->remarks[] = "$left rows that the transaction added to {$table->table} stay; reversing it takes them out.";
            }
        }
    }

    private function bringLive(RowTable $table): void
    {
        $this->bench->exec('DROP TABLE IF EXISTS '.$table->live());
        $this->define($table->schema, $table->table);
        $where = $this->touchedRows($table);
        $rows = ExactFloats::has($this->live, $table->schema, $table->table)
            ? ExactFloats::rows($this->live, $table->schema, $table->table, $where ?? '')
            : Tools::dump($this->live, [
                '--no-create-info',
                '--skip-triggers',
                '--skip-comments',
                '--skip-add-locks',
                '--skip-disable-keys',
                '--single-transaction',
                '--quick',
                '--hex-blob',
                ...$where === null ? [] : ["--where=$where"],
                $table->schema,
                $table->table,
            ]);
        Tools::load($this->bench, self::WORK, SchemaCopy::prepared($rows));
        $this->bench->exec('RENAME TABLE '.Workbench::name(self::WORK, $table->table).' TO '.$table->live());
    }

    /** A condition that only the touched rows meet; null where there are too many of them, or their keys cannot be written plainly. */
    private function touchedRows(RowTable $table): ?string
    {
        [$before, $after] = [$table->working('before'), $table->working('after')];
        $touched = (int) $this->bench->one("SELECT (SELECT COUNT(*) FROM $before) + (SELECT COUNT(*) FROM $after)");
        if ($touched > self::BY_KEY || $touched === 0 || count($table->key) > 1) {
            return null;
        }
        $column = Identifier::quoted($table->key[0]);
        $values = $this->bench->column(
            "SELECT DISTINCT QUOTE($column) FROM (SELECT $column FROM $before UNION SELECT $column FROM $after) k",
        );
        $isPlain = fn (string $value): bool => preg_match('/^[\x20-\x7e]{1,99}$/D', $value) === 1;

        return array_filter($values, $isPlain) === $values ? "$column IN (".implode(',', $values).')' : null;
    }

    public function sums(): RowCounts
    {
        return array_reduce($this->tables, fn (RowCounts $sum, RowTable $table): RowCounts => $sum->plus($table->counts), new RowCounts);
    }

    /** What was settled, to be kept and done at the live server. */
    public function change(string $schema, string $folder): RowChange
    {
        $change = new RowChange($this->live, $schema, $folder, $this->tables);
        $change->keep($this->bench, self::WORK, self::LIVE);

        return $change;
    }
}
