<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Kinds\Databases\Run\Column;
use App\Kinds\Databases\Run\SchemaFacts;
use App\Kinds\Databases\Server\ServerLink;
use Kaiseki\Core\Database\Identifier;

/**
 * What is to become of each row that was touched: its state before, after and now are compared, and a verdict is written down by its
 * key. Verdicts: insert, set back, remove, same, left; any other is the reason why the row is in conflict and stays as it is.
 */
final class RowDecision
{
    private const SHOWN = 200;

    private const SETTLED = "'insert', 'set back', 'remove', 'same', 'left'";

    private readonly string $before;

    private readonly string $after;

    private readonly string $live;

    private readonly string $keys;

    public function __construct(
        private readonly ServerLink $bench,
        private readonly ServerLink $server,
        private readonly RowTable $table,
    ) {
        $this->before = $table->working('before');
        $this->after = $table->working('after');
        $this->live = $table->live();
        $this->keys = $table->working('keys');
    }

    /**
     * @param  bool  $removesAdded  whether rows that the transaction added go again
     * @param  bool  $takeConflicts  whether rows that somebody changed since are brought back all the same
     */
    public function settle(bool $removesAdded, bool $takeConflicts): RowCounts
    {
        $this->writeVerdicts($removesAdded);
        $this->meetOthers();
        if ($takeConflicts) {
            $this->takeConflicts();
        }
        $this->makeRows();
        $counts = [];
        foreach ($this->bench->rows("SELECT verdict, COUNT(*) AS n FROM {$this->keys} GROUP BY verdict") as $row) {
            $counts[(string) $row['verdict']] = (int) $row['n'];
        }

        return RowCounts::byVerdict($counts);
    }

    /** @return list<RowConflict> the first of them by key */
    public function conflicts(): array
    {
        $key = RowTerms::list($this->table->key);
        $rows = $this->bench->rows(
            "SELECT $key, verdict FROM {$this->keys} WHERE verdict NOT IN (".self::SETTLED.") ORDER BY $key LIMIT ".self::SHOWN,
        );

        return array_map(
            fn (array $row): RowConflict => new RowConflict(
                $this->table->name(),
                array_map(
                    fn (?string $value): ?string => $value === null ? null : mb_scrub($value),
                    array_diff_key($row, ['verdict' => true]),
                ),
                (string) $row['verdict'],
            ),
            $rows,
        );
    }

    private function writeVerdicts(bool $removesAdded): void
    {
        $own = RowTerms::list($this->table->key);
        $this->bench->exec(
            "CREATE TABLE {$this->keys} (verdict VARCHAR(120) CHARACTER SET ascii NOT NULL, PRIMARY KEY ($own)) SELECT ".
                RowTerms::list($this->table->key, 'k').
                ", {$this->verdict($removesAdded)} AS verdict FROM".
                " (SELECT $own FROM {$this->before} UNION SELECT $own FROM {$this->after}) k".
                " LEFT JOIN {$this->before} b ON {$this->on('k', 'b')} LEFT JOIN {$this->after} a ON {$this->on('k', 'a')}".
                " LEFT JOIN {$this->live} l ON {$this->on('k', 'l')}",
        );
    }

    /** b is the row before, a the row after, l the live one; the first that holds counts. */
    private function verdict(bool $removesAdded): string
    {
        $known = array_values(
            array_filter($this->table->columns, fn (Column $column): bool => in_array($column->name, $this->table->known, true)),
        );
        [$b, $a, $l] = [$this->isThere('b'), $this->isThere('a'), $this->isThere('l')];
        $bl = RowTerms::same($known, 'b', 'l');
        $al = RowTerms::same($known, 'a', 'l');

        return "CASE
            WHEN $b AND NOT $a AND NOT $l THEN 'insert'
            WHEN $b AND $l AND $bl THEN 'same'
            WHEN $b AND NOT $a THEN 'added again since'
            WHEN $b AND NOT $l THEN 'removed since'
            WHEN $b AND $al THEN 'set back'
            WHEN $b THEN 'changed since'
            WHEN NOT $l THEN 'same'
            ".($removesAdded ? "WHEN $al THEN 'remove' ELSE 'changed since' END" : "ELSE 'left' END");
    }

    /** Rows that cannot come back because another row has taken a value of theirs that only one may have. */
    private function meetOthers(): void
    {
        foreach ((new SchemaFacts($this->server, $this->table->schema))->uniqueKeys($this->table->table) as $name => $columns) {
            if ($columns === $this->table->key) {
                continue;
            }
            $differs = implode(
                ' OR ',
                array_map(
                    fn (string $column): string => 'NOT (l.'.Identifier::quoted($column).' <=> b.'.Identifier::quoted($column).')',
                    $this->table->key,
                ),
            );
            // A row that itself is set back or goes does not stand in the way.
            $this->bench->exec(
                "UPDATE {$this->keys} k JOIN {$this->before} b ON {$this->on('k', 'b')} JOIN {$this->live} l ON ".
                    RowTerms::on($columns, 'l', 'b').
                    " AND ($differs) LEFT JOIN {$this->keys} o ON {$this->on('o', 'l')} AND o.verdict IN ('remove', 'set back')".
                    ' SET k.verdict = '.
                    $this->bench->text(mb_strcut("another row has its $name", 0, 120)).
                    " WHERE k.verdict IN ('insert', 'set back') AND o.verdict IS NULL",
            );
        }
    }

    private function takeConflicts(): void
    {
        $this->bench->exec(
            "UPDATE {$this->keys} k LEFT JOIN {$this->before} b ON {$this->on('k', 'b')}".
                " LEFT JOIN {$this->live} l ON {$this->on('k', 'l')}".
                " SET k.verdict = CASE WHEN NOT {$this->isThere('b')} THEN 'remove' WHEN NOT {$this->isThere('l')} THEN 'insert'".
                " ELSE 'set back' END WHERE k.verdict IN ('added again since', 'removed since', 'changed since')",
        );
    }

    /** The rows to put in, those to be set and what they are set from, and those to take out, all whole. */
    private function makeRows(): void
    {
        $own = $this->table->own();
        $known = array_values(array_intersect($own, $this->table->known));
        $mixed = implode(
            ', ',
            array_map(fn (string $column): string => (in_array($column, $known, true) ? 'b.' : 'l.').Identifier::quoted($column), $own),
        );
        $was = "FROM {$this->before} b JOIN {$this->keys} k ON {$this->on('b', 'k')}";
        $is = "FROM {$this->live} l JOIN {$this->keys} k ON {$this->on('l', 'k')}";
        $both = "$was JOIN {$this->live} l ON {$this->on('b', 'l')}";
        $this->fill('ins', $known, RowTerms::list($known, 'b')." $was WHERE k.verdict = 'insert'");
        $this->fill('new', $own, "$mixed $both WHERE k.verdict = 'set back'");
        $this->fill('old', $own, RowTerms::list($own, 'l')." $is WHERE k.verdict = 'set back'");
        $this->fill('del', $own, RowTerms::list($own, 'l')." $is WHERE k.verdict = 'remove'");
    }

    /** @param  list<string>  $columns */
    private function fill(string $as, array $columns, string $selected): void
    {
        $into = $this->table->working($as);
        $this->bench->exec("CREATE TABLE $into LIKE {$this->live}");
        $this->bench->exec("INSERT INTO $into (".RowTerms::list($columns).") SELECT $selected");
    }

    private function on(string $a, string $b): string
    {
        return RowTerms::on($this->table->key, $a, $b);
    }

    private function isThere(string $alias): string
    {
        return "($alias.".Identifier::quoted($this->table->key[0]).' IS NOT NULL)';
    }
}
