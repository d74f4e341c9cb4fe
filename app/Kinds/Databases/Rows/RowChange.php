<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Run\ExactFloats;
use App\Kinds\Databases\Run\SchemaCopy;
use App\Kinds\Databases\Run\SchemaFacts;
use App\Kinds\Databases\Run\ThrowAway;
use App\Kinds\Databases\Run\Workbench;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\Tools;
use App\Kinds\Databases\Server\WorkAccount;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\Identifier;
use Kaiseki\Core\Database\LogPosition;
use Kaiseki\Core\Database\LogReader;
use Kaiseki\Core\Database\RowEvents;
use Kaiseki\Core\Database\UnreadableLog;
use PDOException;

/**
 * Rows of live tables that are to be others, and what they were: kept in a schema at the live server, by which it is compared, and as
 * row events in two files, by which it is done and undone. A replica takes row events as they are, and so does the live
 * server: no trigger runs for them, no column sets itself, and no foreign key cascades.
 */
final class RowChange
{
    /**
     * @param  string  $schema  at the live server: rows to insert (ins), to be set to (new) and from (old), to remove (del); also the name
     *                          of the account that fills it
     * @param  string  $folder  holds the events
     * @param  list<RowTable>  $tables  as RowWork settled them
     */
    public function __construct(
        private readonly ServerLink $live,
        private readonly string $schema,
        private readonly string $folder,
        private readonly array $tables,
    ) {
    }

    /** @param  bool  $back  the events that undo it */
    private function file(bool $back): string
    {
        return "{$this->folder}/rows-".($back ? 'back' : 'forward').'.binlog';
    }

    /**
     * Keeps what was settled on a throw-away server.
     *
     * @param  string  $settled  its schema with the rows
     * @param  string  $defined  its schema with the live tables as they are defined
     */
    public function keep(ServerLink $bench, string $settled, string $defined): void
    {
        $this->makeEvents($bench, $settled, $defined);
        $this->live->withoutLog();
        $this->live->exec('DROP DATABASE IF EXISTS '.Identifier::quoted($this->schema));
        $this->live->createSchema($this->schema);
        $tables = [];
        foreach ($this->tables as $table) {
            foreach (['ins', 'new', 'old', 'del'] as $name) {
                $tables[] = "{$name}_{$table->n}";
                ExactFloats::widen($bench, $settled, "{$name}_{$table->n}");
            }
        }
        if ($tables !== []) {
            $account = WorkAccount::make($this->live, $this->schema, WorkAccount::FILL, [$this->schema], ['BINLOG ADMIN']);
            try {
                $how = ['--skip-comments', '--skip-add-locks', '--single-transaction', '--quick', '--hex-blob'];
                Tools::load($account->link, $this->schema, SchemaCopy::prepared(Tools::dump($bench, [...$how, $settled, ...$tables])));
            } finally {
                $account->end();
            }
        }
    }

    /**
     * The rows leave a table of the same columns and come into it: what the throw-away server logs of that is the change, and its
     * reverse.
     */
    private function makeEvents(ServerLink $bench, string $settled, string $defined): void
    {
        $bench->exec('DROP DATABASE IF EXISTS '.ThrowAway::LOGGED); // of an earlier attempt
        $bench->createSchema(ThrowAway::LOGGED);
        $bench->exec("SET foreign_key_checks = 0, unique_checks = 0, check_constraint_checks = 0, sql_mode = 'NO_AUTO_VALUE_ON_ZERO'");
        $names = [];
        foreach ($this->tables as $table) {
            $bench->exec(
                'CREATE TABLE '.
                    Workbench::name(ThrowAway::LOGGED, "t{$table->n}").
                    ' LIKE '.
                    Workbench::name($defined, "t{$table->n}"),
            );
            $names[ThrowAway::LOGGED."\0t{$table->n}"] = [$table->schema, $table->table];
        }
        $fill = function (string ...$from) use ($bench, $settled): void {
            foreach ($this->tables as $table) {
                $columns = RowTerms::list($table->own());
                foreach ($from as $name) {
                    $bench->exec(
                        'INSERT INTO '.
                            Workbench::name(ThrowAway::LOGGED, "t{$table->n}").
                            " ($columns) SELECT $columns FROM ".
                            Workbench::name($settled, "{$name}_{$table->n}"),
                    );
                }
            }
        };
        $empty = function () use ($bench): void {
            foreach ($this->tables as $table) {
                $bench->exec('DELETE FROM '.Workbench::name(ThrowAway::LOGGED, "t{$table->n}"));
            }
        };
        $logs = dirname((string) $bench->one('SELECT @@log_bin_basename'));
        $fill('old', 'del');
        foreach ([false, true] as $back) {
            $begins = self::logEnd($bench);
            $empty();
            $fill(...$back ? ['old', 'del'] : ['new', 'ins']);
            $out = fopen($this->file($back), 'wb') ?: throw CannotRestore::because("{$this->file($back)} cannot be written.");
            try {
                (new RowEvents($out))->take(
                    new LogReader(ArchiveFile::at($logs.'/'.$begins->file)->open(), PHP_INT_MAX),
                    $begins->offset,
                    self::logEnd($bench)->offset,
                    $names,
                );
            } catch (UnreadableArchive $unreadable) {
                throw CannotRestore::because("The row events {$unreadable->getMessage()}.");
            }
            fclose($out);
        }
    }

    private static function logEnd(ServerLink $bench): LogPosition
    {
        return $bench->logEnd() ?? throw CannotRestore::because('The throw-away server keeps no log.');
    }

    /** Whether it was done, though whoever did it did not live to say so: a row is as it was to be that was not so before. */
    public function isDone(): bool
    {
        if ($this->tables === [] || ! $this->live->hasSchema($this->schema)) {
            return false;
        }
        foreach ($this->tables as $table) {
            foreach (['ins', 'new'] as $name) {
                if ($this->matching($table, $name, true) > 0) {
                    return true;
                }
            }
            if ($this->matching($table, 'del', true) < $this->count($table, 'del')) {
                return true;
            }
        }

        return false;
    }

    /**
     * Does it in one transaction, which compares first, and reads every row again.
     *
     * @param  bool  $back  undoes it instead
     * @return int rows
     *
     * @throws CannotRestore if anything is not as it was when it was settled: then nothing was done
     */
    public function carryOut(bool $back = false): int
    {
        if ($this->tables === []) {
            return 0;
        }
        if (! is_file($this->file($back))) {
            throw CannotRestore::because("{$this->file($back)} is not there: without it this cannot be done.");
        }
        [$insert, $new, $old, $remove] = $back ? ['del', 'old', 'new', 'ins'] : ['ins', 'new', 'old', 'del'];
        $done = 0;
        $this->live->again();
        if ($this->live->keepsLog) {
            // Else the whole BINLOG statement, up to a megabyte, is logged again beside each of its events.
            $this->live->exec("SET SESSION binlog_format = 'ROW', binlog_annotate_row_events = OFF");
        }
        $orphans = $this->orphans();
        $this->live->exec('START TRANSACTION');
        try {
            foreach ($this->tables as $table) {
                $this->expect($table, $old, true);
                $this->expect($table, $remove, true);
                $this->expect($table, $insert, false);
                $done += $this->count($table, $insert) + $this->count($table, $new) + $this->count($table, $remove);
            }
            foreach (
                RowEvents::statements(
                    new LogReader(ArchiveFile::at($this->file($back))->open(), PHP_INT_MAX),
                    (int) $this->live->one('SELECT @@max_allowed_packet'),
                ) as $statement
            ) {
                $this->live->exec($statement);
            }
            foreach ($this->tables as $table) {
                $this->confirm($table, $insert, true);
                $this->confirm($table, $new, true);
                $this->confirm($table, $remove, false);
            }
            $this->confirmNoNewOrphans($orphans);
            $this->live->exec('COMMIT');
        } catch (PDOException|CannotRestore|UnreadableLog|UnreadableArchive $failure) {
            $this->live->again(); // which rolls back, also where the connection is gone
            $because =
                $failure instanceof UnreadableLog || $failure instanceof UnreadableArchive
                    ? "The row events {$failure->getMessage()}."
                    : mb_scrub($failure->getMessage());
            throw CannotRestore::because("Nothing was changed. $because");
        }

        return $done;
    }

    /** @param  array<string, int>  $before  as orphans() gave them */
    private function confirmNoNewOrphans(array $before): void
    {
        foreach ($this->orphans() as $key => $count) {
            if ($count > ($before[$key] ?? 0)) {
                throw CannotRestore::because(
                    "$count rows would point at nothing by the foreign key $key. Bring the rows they point at back with them.",
                );
            }
        }
    }

    public function drop(): void
    {
        $this->live->withoutLog();
        WorkAccount::clear($this->live, $this->schema);
        $this->live->exec('DROP DATABASE IF EXISTS '.Identifier::quoted($this->schema));
        foreach ([false, true] as $back) {
            @unlink($this->file($back));
        }
    }

    /** @return array<string, int> */
    private function orphans(): array
    {
        $orphans = [];
        $schemas = array_unique(array_map(fn (RowTable $table): string => $table->schema, $this->tables));
        $tables = array_map(fn (RowTable $table): string => $table->table, $this->tables);
        foreach ($schemas as $schema) {
            foreach ((new SchemaFacts($this->live, $schema))->orphans($tables) as $key => $count) {
                $orphans["$schema.$key"] = $count;
            }
        }

        return $orphans;
    }

    private function count(RowTable $table, string $name): int
    {
        return (int) $this->live->one('SELECT COUNT(*) FROM '.Workbench::name($this->schema, "{$name}_{$table->n}"));
    }

    /**
     * Live rows of the keys of those that are kept.
     *
     * @param  bool  $same  only those that are the same
     */
    private function matching(RowTable $table, string $name, bool $same, string $lock = ''): int
    {
        return (int) $this->live->one(
            'SELECT COUNT(*) FROM '.
                Workbench::name($table->schema, $table->table).
                ' l JOIN '.
                Workbench::name($this->schema, "{$name}_{$table->n}").
                ' w ON '.
                RowTerms::on($table->key, 'l', 'w').
                ($same ? ' WHERE '.RowTerms::same($table->columns, 'l', 'w') : '').
                " $lock",
        );
    }

    /**
     * Rows of these keys that are not there as they are kept, or are there though they must not be.
     */
    private function others(RowTable $table, string $name, bool $isThere, string $lock = ''): int
    {
        return abs(($isThere ? $this->count($table, $name) : 0) - $this->matching($table, $name, $isThere, $lock));
    }

    /**
     * Locks the rows of these keys.
     *
     * @param  bool  $isThere  whether they must be there as they are kept, or not at all
     */
    private function expect(RowTable $table, string $name, bool $isThere): void
    {
        $others = $this->others($table, $name, $isThere, 'FOR UPDATE');
        if ($others !== 0) {
            throw CannotRestore::because(
                sprintf(
                    '%d of %d rows of %s.%s are not as they were when this was settled: somebody changed them meanwhile. Look at it '.
                        'again, and order it anew.',
                    $others,
                    $this->count($table, $name),
                    $table->schema,
                    $table->table,
                ),
            );
        }
    }

    private function confirm(RowTable $table, string $name, bool $isThere): void
    {
        $others = $this->others($table, $name, $isThere);
        if ($others !== 0) {
            throw CannotRestore::because(
                sprintf('%d rows of %s.%s did not become what they should be.', $others, $table->schema, $table->table),
            );
        }
    }
}
