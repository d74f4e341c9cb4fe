<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Kinds\Databases\Run\ExactFloats;
use App\Kinds\Databases\Run\SchemaCopy;
use App\Kinds\Databases\Run\SchemaFacts;
use App\Kinds\Databases\Run\Workbench;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\Tools;
use Kaiseki\Core\Database\Identifier;
use PDOException;

/**
 * Brings rows of live tables to what they were, by their keys, where nobody changed them since. On a throw-away server
 * stand, for each table, the rows before the transaction, those after it, and the live ones; what is to be done comes of
 * comparing the three. It is done in one transaction on the live server, which compares again and checks every row.
 */
final class RowWork
{
    /** Schemas on the throw-away server. */
    private const BEFORE = 'kaiseki_before';

    private const AFTER = 'kaiseki_after';

    private const LIVE = 'kaiseki_live';

    private const WORK = 'kaiseki_work';

    private const SHOWN = 200;

    private const NO_KEY = 'it has no primary key, nor another unique one without NULLs: its rows cannot be told apart';

    /** Up to so many touched rows the live ones are asked for by key, beyond that the whole table. */
    private const BY_KEY = 1000;

    /**
     * @var list<array{schema: string, table: string, n: int, key: list<string>, columns: list<array{name: string, text: bool,
     *     generated: bool}>, known: list<string>, insert: int, set_back: int, remove: int, same: int, left: int, conflicts: int}>
     */
    public array $tables = [];

    /** @var list<array{table: string, key: array<string, string|null>, because: string}> the first of them */
    public array $conflicts = [];

    /** @var list<array{table: string, because: string}> tables of which nothing can be done */
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

    public static function beforeSchema(): string
    {
        return self::BEFORE;
    }

    public static function afterSchema(): string
    {
        return self::AFTER;
    }

    /** Empty tables for the images of a table, as the live server defines it: all its columns, and one that counts. */
    public function makeTwin(string $schema, string $table, string $twin): bool
    {
        $definition = $this->define($schema, $table);
        if ($definition === null) {
            $this->impossible[] = ['table' => "$schema.$table", 'because' => 'it is not there any more: bring the whole table back'];

            return false;
        }
        foreach ([self::BEFORE, self::AFTER] as $side) {
            $this->bench->exec(
                'CREATE TABLE '.
                    Workbench::name($side, $twin).
                    ' SELECT '.
                    RowTerms::list(array_column($this->columns($schema, $table), 'name')).
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

    /** @return list<array{name: string, text: bool, generated: bool}> */
    private function columns(string $schema, string $table): array
    {
        return (new SchemaFacts($this->live, $schema))->columns($table);
    }

    /**
     * Tables that keep a history of their own are left: each change of a row is an entry in it, and none is to be forged.
     *
     * @param  list<array{string, string, int, int, int}>  $tables
     * @return list<string> "schema\0table"
     */
    public function leaveVersioned(array $tables): array
    {
        $left = [];
        foreach ($tables as [$schema, $table]) {
            if (in_array($table, (new SchemaFacts($this->live, $schema))->versioned(), true)) {
                $this->impossible[] = [
                    'table' => "$schema.$table",
                    'because' => 'it keeps a history of its rows (system versioning), which has them still: SELECT ... FOR SYSTEM_TIME '.
                        'AS OF the moment before',
                ];
                $left[] = "$schema\0$table";
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
     * @param  list<array{schema: string, table: string, twin: string, rows: int}>  $twins
     * @param  list<array{string, int, int, int, int}>  $ranges
     */
    public function settleImages(array $twins, array $ranges): void
    {
        foreach ([self::BEFORE, self::AFTER] as $side) {
            foreach ($twins as $twin) {
                // The server counts the rows as they come, but with gaps. In a table of its own: an UPDATE of the rows would set their
                // times.
                $this->bench->exec(
                    'CREATE TABLE '.
                        self::numbers($side, $twin['twin']).
                        ' (touch BIGINT UNSIGNED PRIMARY KEY, row_no BIGINT UNSIGNED NOT NULL UNIQUE, change_no BIGINT UNSIGNED NOT NULL '.
                        'DEFAULT 0) SELECT kaiseki_touch AS touch, ROW_NUMBER() OVER (ORDER BY kaiseki_touch) AS row_no FROM '.
                        Workbench::name($side, $twin['twin']),
                );
            }
        }
        foreach ($ranges as [$twin, $side, $first, $last, $delta]) {
            $this->bench->exec(
                'UPDATE '.
                    self::numbers($side === 0 ? self::BEFORE : self::AFTER, $twin).
                    " SET change_no = row_no + $delta WHERE row_no BETWEEN $first AND $last",
            );
        }
        foreach ($twins as $n => $twin) {
            $columns = $this->columns($twin['schema'], $twin['table']);
            $key = (new SchemaFacts($this->live, $twin['schema']))->key($twin['table']);
            if ($key === []) {
                $this->impossible[] = ['table' => "{$twin['schema']}.{$twin['table']}", 'because' => self::NO_KEY];

                continue;
            }
            $names = array_column($columns, 'name');
            foreach ([self::BEFORE, self::AFTER] as $side) {
                $this->bench->exec(
                    'ALTER TABLE '.Workbench::name($side, $twin['twin']).' ADD INDEX kaiseki_key ('.RowTerms::list($key).')',
                );
            }
            $touched = fn (string $side, string $which): string => 'SELECT '.
                RowTerms::list($key, 'r').
                ", $which(m.change_no) AS change_no FROM ".
                Workbench::name($side, $twin['twin']).
                ' r JOIN '.
                self::numbers($side, $twin['twin']).
                ' m ON m.touch = r.kaiseki_touch GROUP BY '.
                RowTerms::list($key, 'r');
            $sides = [[self::BEFORE, self::AFTER, 'MIN', '<=', 'before'], [self::AFTER, self::BEFORE, 'MAX', '>=', 'after']];
            foreach ($sides as [$side, $other, $which, $first, $as]) {
                $this->bench->exec(
                    'CREATE TABLE '.
                        Workbench::name(self::WORK, "{$as}_$n").
                        ' SELECT '.
                        RowTerms::list($names, 'i').
                        ' FROM '.
                        Workbench::name($side, $twin['twin']).
                        ' i JOIN '.
                        self::numbers($side, $twin['twin']).
                        " m ON m.touch = i.kaiseki_touch
                    JOIN ({$touched($side, $which)}) f ON ".
                        RowTerms::on($key, 'i', 'f').
                        " AND m.change_no = f.change_no LEFT JOIN ({$touched($other, $which)}) o ON ".
                        RowTerms::on($key, 'o', 'f').
                        " WHERE o.change_no IS NULL OR f.change_no $first o.change_no",
                );
            }
            $this->add($n, $twin['schema'], $twin['table'], $key, $names);
        }
    }

    /**
     * From whole tables: the rows that differ. `before` is a copy of the table, `after` the table as it is there now; where the live one
     * has other columns, those that both have count.
     *
     * @param  list<array{schema: string, table: string, before: string, after: string|null, columns: list<string>}>  $pairs  qualified
     *     names on the throw-away server
     */
    public function settleTables(array $pairs): void
    {
        $left = $this->leaveVersioned(array_map(fn (array $pair): array => [$pair['schema'], $pair['table'], 0, 0, 0], $pairs));
        foreach ($pairs as $n => $pair) {
            if (in_array("{$pair['schema']}\0{$pair['table']}", $left, true)) {
                continue;
            }
            if ($this->define($pair['schema'], $pair['table']) === null) {
                $this->impossible[] = [
                    'table' => "{$pair['schema']}.{$pair['table']}",
                    'because' => 'it is not there any more: bring the whole table back',
                ];

                continue;
            }
            $columns = array_values(
                array_filter(
                    $this->columns($pair['schema'], $pair['table']),
                    fn (array $column): bool => in_array($column['name'], $pair['columns'], true),
                ),
            );
            $key = (new SchemaFacts($this->live, $pair['schema']))->key($pair['table']);
            $names = array_column($columns, 'name');
            if ($key === [] || array_diff($key, $names) !== []) {
                $this->impossible[] = [
                    'table' => "{$pair['schema']}.{$pair['table']}",
                    'because' => $key === [] ? self::NO_KEY : 'its key has columns now that it did not have then',
                ];

                continue;
            }
            $same = RowTerms::same($columns, 'x', 'y');
            $this->bench->exec("ALTER TABLE {$pair['before']} ADD INDEX kaiseki_key (".RowTerms::list($key).')');
            foreach ([['before', $pair['before'], $pair['after']], ['after', $pair['after'], $pair['before']]] as [$as, $of, $other]) {
                $into = 'CREATE TABLE '.Workbench::name(self::WORK, "{$as}_$n").' SELECT ';
                try {
                    $this->bench->exec(
                        match (true) {
                            $of === null => $into.
                                RowTerms::list($names).
                                ' FROM '.
                                Workbench::name(self::WORK, $pair['table']).
                                ' LIMIT 0',
                            $other === null => $into.RowTerms::list($names, 'x')." FROM $of x",
                            default => $into.
                                RowTerms::list($names, 'x').
                                " FROM $of x LEFT JOIN $other y ON ".
                                RowTerms::on($key, 'x', 'y').
                                " AND $same WHERE y.".
                                Identifier::quoted($key[0]).
                                ' IS NULL',
                        },
                    );
                } catch (PDOException $failure) {
                    $this->impossible[] = [
                        'table' => "{$pair['schema']}.{$pair['table']}",
                        'because' => 'it had other columns then: '.mb_scrub($failure->getMessage()),
                    ];

                    continue 2;
                }
            }
            $this->add($n, $pair['schema'], $pair['table'], $key, $names);
        }
    }

    /**
     * @param  list<string>  $key
     * @param  list<string>  $known  columns whose values before and after are known
     */
    private function add(int $n, string $schema, string $table, array $key, array $known): void
    {
        $columns = $this->columns($schema, $table);
        $new = array_diff(array_column(RowTerms::own($columns), 'name'), $known);
        if ($new !== []) {
            $this->remarks[] =
                "$schema.$table has columns now that it did not have then: ".
                implode(', ', $new).
                '. In rows that are set back they stay as they are, in rows that are put in they take their defaults.';
        }
        foreach (['before', 'after'] as $side) {
            $this->bench->exec(
                'ALTER TABLE '.Workbench::name(self::WORK, "{$side}_$n").' ADD PRIMARY KEY ('.RowTerms::list($key).')',
            );
        }
        $this->tables[] = [
            'schema' => $schema,
            'table' => $table,
            'n' => $n,
            'key' => $key,
            'columns' => $columns,
            'known' => $known,
            'insert' => 0,
            'set_back' => 0,
            'remove' => 0,
            'same' => 0,
            'left' => 0,
            'conflicts' => 0,
        ];
    }

    /** Compares with the live rows, and settles what is to be done. */
    public function decide(): void
    {
        foreach ($this->tables as $i => $table) {
            $this->bringLive($table);
            $this->tables[$i] = $this->decideTable($table);
        }
    }

    /** @param  array<string, mixed>  $table */
    private function bringLive(array $table): void
    {
        $n = $table['n'];
        $live = Workbench::name(self::LIVE, "t$n");
        $this->bench->exec('DROP TABLE IF EXISTS '.$live);
        $this->define($table['schema'], $table['table']);
        $touched = (int) $this->bench->one(
            'SELECT (SELECT COUNT(*) FROM '.
                Workbench::name(self::WORK, "before_$n").
                ') + (SELECT COUNT(*) FROM '.
                Workbench::name(self::WORK, "after_$n").
                ')',
        );
        $options = [
            '--no-create-info',
            '--skip-triggers',
            '--skip-comments',
            '--skip-add-locks',
            '--skip-disable-keys',
            '--single-transaction',
            '--quick',
            '--hex-blob',
        ];
        if ($touched <= self::BY_KEY && count($table['key']) === 1 && $touched > 0) {
            $column = Identifier::quoted($table['key'][0]);
            $values = $this->bench->column(
                "SELECT DISTINCT QUOTE($column) FROM (SELECT $column FROM ".
                    Workbench::name(self::WORK, "before_$n").
                    " UNION SELECT $column FROM ".
                    Workbench::name(self::WORK, "after_$n").
                    ') k',
            );
            if (
                max(array_map(strlen(...), $values)) < 100 &&
                array_filter($values, fn (string $value): bool => preg_match('/[^\x20-\x7e]/', $value) === 1) === []
            ) {
                $options[] = '--where='.$column.' IN ('.implode(',', $values).')';
            }
        }
        $rows = ExactFloats::has($this->live, $table['schema'], $table['table'])
            ? ExactFloats::rows(
                $this->live,
                $table['schema'],
                $table['table'],
                str_starts_with($options[count($options) - 1], '--where=') ? substr($options[count($options) - 1], 8) : '',
            )
            : Tools::dump($this->live, [...$options, $table['schema'], $table['table']]);
        Tools::load($this->bench, self::WORK, SchemaCopy::prepared($rows));
        $this->bench->exec('RENAME TABLE '.Workbench::name(self::WORK, $table['table'])." TO $live");
    }

    /**
     * @param  array{schema: string, table: string, n: int, key: list<string>, columns: list<array{name: string, text: bool,
     *     generated: bool}>, known: list<string>, insert: int, set_back: int, remove: int, same: int, left: int, conflicts: int}  $table
     * @return array{schema: string, table: string, n: int, key: list<string>, columns: list<array{name: string, text: bool,
     *     generated: bool}>, known: list<string>, insert: int, set_back: int, remove: int, same: int, left: int, conflicts: int}
     */
    private function decideTable(array $table): array
    {
        [$n, $key, $columns] = [
            $table['n'],
            $table['key'],
            array_values(array_filter($table['columns'], fn (array $column): bool => in_array($column['name'], $table['known'], true))),
        ];
        $b = Workbench::name(self::WORK, "before_$n");
        $a = Workbench::name(self::WORK, "after_$n");
        $l = Workbench::name(self::LIVE, "t$n");
        $first = Identifier::quoted($key[0]);
        $is = fn (string $x): string => "$x.$first IS NOT NULL";
        $isNot = fn (string $x): string => "$x.$first IS NULL";
        $bl = RowTerms::same($columns, 'b', 'l');
        $al = RowTerms::same($columns, 'a', 'l');
        $verdict =
            "CASE
            WHEN {$is('b')} AND {$isNot('a')} AND {$isNot('l')} THEN 'insert'
            WHEN {$is('b')} AND {$is('l')} AND $bl THEN 'same'
            WHEN {$is('b')} AND {$isNot('a')} THEN 'added again since'
            WHEN {$is('b')} AND {$isNot('l')} THEN 'removed since'
            WHEN {$is('b')} AND $al THEN 'set back'
            WHEN {$is('b')} THEN 'changed since'
            WHEN {$isNot('l')} THEN 'same'
            ".($this->removesAdded ? "WHEN $al THEN 'remove' ELSE 'changed since' END" : "ELSE 'left' END");
        $keys = Workbench::name(self::WORK, "keys_$n");
        $own = RowTerms::list($key);
        $this->bench->exec(
            "CREATE TABLE $keys (verdict VARCHAR(120) CHARACTER SET ascii NOT NULL, PRIMARY KEY ($own)) SELECT ".
                RowTerms::list($key, 'k').
                ", $verdict AS verdict FROM (SELECT $own FROM $b UNION SELECT $own FROM $a) k LEFT JOIN $b b ON ".
                RowTerms::on($key, 'k', 'b').
                " LEFT JOIN $a a ON ".
                RowTerms::on($key, 'k', 'a').
                " LEFT JOIN $l l ON ".
                RowTerms::on($key, 'k', 'l'),
        );
        $this->meetOthers($table, $keys, $b, $l);
        if ($this->takeConflicts) {
            $this->bench->exec(
                "UPDATE $keys k LEFT JOIN $b b ON ".
                    RowTerms::on($key, 'k', 'b').
                    " LEFT JOIN $l l ON ".
                    RowTerms::on($key, 'k', 'l').
                    " SET k.verdict = CASE WHEN {$isNot('b')} THEN 'remove' WHEN {$isNot(
                        'l',
                    )} THEN 'insert' ELSE 'set back' END WHERE k.verdict IN ('added again since', 'removed since', 'changed since')",
            );
        }
        foreach ($this->bench->rows("SELECT verdict, COUNT(*) AS n FROM $keys GROUP BY verdict") as $row) {
            $field = match ($row['verdict']) {
                'insert' => 'insert',
                'set back' => 'set_back',
                'remove' => 'remove',
                'same' => 'same',
                'left' => 'left',
                default => 'conflicts',
            };
            $table[$field] += (int) $row['n'];
        }
        foreach (
            $this->bench->rows(
                'SELECT '.
                    RowTerms::list($key).
                    ", verdict FROM $keys WHERE verdict NOT IN ('insert', 'set back', 'remove', 'same', 'left') ORDER BY ".
                    RowTerms::list($key).
                    ' LIMIT '.
                    self::SHOWN,
            ) as $row
        ) {
            $because = (string) $row['verdict'];
            unset($row['verdict']);
            $this->conflicts[] = [
                'table' => "{$table['schema']}.{$table['table']}",
                'key' => array_map(fn (?string $value): ?string => $value === null ? null : mb_scrub($value), $row),
                'because' => $because,
            ];
        }
        if ($table['left'] > 0) {
            $this->remarks[] = "{$table['left']} rows that the transaction added to {$table['table']} stay; reversing it takes them out.";
        }
        $this->makeRows($table, $keys, $b, $l);

        return $table;
    }

    /**
     * The rows to put in, those to be set and what they are set from, and those to take out, all whole.
     *
     * @param  array{schema: string, table: string, n: int, key: list<string>, columns: list<array{name: string, text: bool,
     *     generated: bool}>, known: list<string>, insert: int, set_back: int, remove: int, same: int, left: int, conflicts: int}  $table
     */
    private function makeRows(array $table, string $keys, string $b, string $l): void
    {
        $own = array_column(RowTerms::own($table['columns']), 'name');
        $known = array_values(array_intersect($own, $table['known']));
        $on = fn (string $a, string $b): string => RowTerms::on($table['key'], $a, $b);
        $mixed = implode(
            ', ',
            array_map(fn (string $column): string => (in_array($column, $known, true) ? 'b.' : 'l.').Identifier::quoted($column), $own),
        );
        foreach (
            [
                'ins' => [
                    RowTerms::list($known),
                    'SELECT '.RowTerms::list($known, 'b')." FROM $b b JOIN $keys k ON {$on('b', 'k')} WHERE k.verdict = 'insert'",
                ],
                'new' => [
                    RowTerms::list($own),
                    "SELECT $mixed FROM $b b JOIN $l l ON {$on('b', 'l')} JOIN $keys k ON {$on('b', 'k')} WHERE k.verdict = 'set back'",
                ],
                'old' => [
                    RowTerms::list($own),
                    'SELECT '.RowTerms::list($own, 'l')." FROM $l l JOIN $keys k ON {$on('l', 'k')} WHERE k.verdict = 'set back'",
                ],
                'del' => [
                    RowTerms::list($own),
                    'SELECT '.RowTerms::list($own, 'l')." FROM $l l JOIN $keys k ON {$on('l', 'k')} WHERE k.verdict = 'remove'",
                ],
            ] as $name => [$columns, $rows]
        ) {
            $into = Workbench::name(self::WORK, "{$name}_{$table['n']}");
            $this->bench->exec("CREATE TABLE $into LIKE $l");
            $this->bench->exec("INSERT INTO $into ($columns) $rows");
        }
    }

    /**
     * Rows that cannot come back because another row has taken a value of theirs that only one may have.
     *
     * @param  array<string, mixed>  $table
     */
    private function meetOthers(array $table, string $keys, string $b, string $l): void
    {
        foreach ((new SchemaFacts($this->live, $table['schema']))->uniqueKeys($table['table']) as $name => $columns) {
            if ($columns === $table['key']) {
                continue;
            }
            $differs = implode(
                ' OR ',
                array_map(
                    fn (string $column): string => 'NOT (l.'.Identifier::quoted($column).' <=> b.'.Identifier::quoted($column).')',
                    $table['key'],
                ),
            );
            // A row that itself is set back or goes does not stand in the way.
            $this->bench->exec(
                "UPDATE $keys k JOIN $b b ON ".
                    RowTerms::on($table['key'], 'k', 'b').
                    " JOIN $l l ON ".
                    RowTerms::on($columns, 'l', 'b').
                    " AND ($differs) LEFT JOIN $keys o ON ".
                    RowTerms::on($table['key'], 'o', 'l').
                    " AND o.verdict IN ('remove', 'set back') SET k.verdict = ".
                    $this->bench->text(mb_strcut("another row has its $name", 0, 120)).
                    " WHERE k.verdict IN ('insert', 'set back') AND o.verdict IS NULL",
            );
        }
    }

    /** @return array{insert: int, set_back: int, remove: int, same: int, left: int, conflicts: int} */
    public function sums(): array
    {
        $sums = ['insert' => 0, 'set_back' => 0, 'remove' => 0, 'same' => 0, 'left' => 0, 'conflicts' => 0];
        foreach ($this->tables as $table) {
            foreach ($sums as $name => $sum) {
                $sums[$name] = $sum + $table[$name];
            }
        }

        return $sums;
    }

    /** What was settled, to be kept and done at the live server. */
    public function change(string $schema, string $folder): RowChange
    {
        $change = new RowChange($this->live, $schema, $folder, $this->tables);
        $change->keep($this->bench, self::WORK, self::LIVE);

        return $change;
    }
}
