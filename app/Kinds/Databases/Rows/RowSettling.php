<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Order\LoggedTransaction;
use App\Kinds\Databases\Order\Reach;
use App\Kinds\Databases\Order\Stop;
use App\Kinds\Databases\Run\Column;
use App\Kinds\Databases\Run\SchemaFacts;
use App\Kinds\Databases\Run\Workbench;
use App\Kinds\Databases\Server\Tools;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\LogReader;
use Kaiseki\Core\Database\RowImages;
use Kaiseki\Core\Database\TableCount;
use PDOException;

/** Finds the rows that a transaction touched, as they were before it and after it: from its images, or from whole tables. */
final class RowSettling
{
    private const COPIES = 'kaiseki_then';

    /** @var list<string> */
    public array $remarks = [];

    public function __construct(
        private readonly Workbench $bench,
        private readonly DatabasePoints $points,
        private readonly LoggedTransaction $transaction,
        private readonly string $folder,
    ) {
    }

    /**
     * The dumps and logs from which the rows before and after are told, where what stands in the log is not enough or does not fit the
     * tables as they are now; null where the log alone is gone by. A transaction can be reversed by the log alone also where CASCADE may
     * have taken rows that it does not show, if there is nothing else.
     *
     * @return list<Reach>|null
     *
     * @throws CannotRestore
     */
    public function reaches(DatabaseOrder $order): ?array
    {
        $isReversed = $order->way === DatabaseOrder::REVERSE && $order->tables === null;
        $isRedefined = $this->points->transactions->redefined($this->transaction);
        if ($order->tables === null && ! $isRedefined && ($this->holdsAll() || ($isReversed && $this->transaction->isDefinition))) {
            return null;
        }
        try {
            return $this->points->forOrder($order, true);
        } catch (CannotRestore $cannot) {
            return $isReversed && ! $isRedefined ? null : throw $cannot;
        }
    }

    /** Whether the log holds whole rows of all that the transaction touched: then no dump is needed, and nothing of a FLOAT is lost. */
    private function holdsAll(): bool
    {
        if (! $this->transaction->showsItsRows()) {
            return false;
        }
        $out = fopen('/dev/null', 'wb');
        $images = new RowImages(
            $out === false ? throw CannotRestore::because('/dev/null cannot be opened.') : $out,
            RowWork::BEFORE,
            RowWork::AFTER,
        );
        try {
            $images->take($this->log(), $this->transaction->gtid);
        } catch (UnreadableArchive) {
            return false;
        }

        return $images->found && ! $images->hasStatement && $images->partial === [] && $images->opened === [];
    }

    /** @throws UnreadableArchive */
    private function log(): LogReader
    {
        return new LogReader($this->points->open($this->points->transactions->mustBe($this->transaction->file))->open(), PHP_INT_MAX);
    }

    public function fromImages(RowWork $work): string
    {
        $file = "{$this->folder}/images";
        $out = fopen($file, 'wb') ?: throw CannotRestore::because("$file cannot be written.");
        $images = new RowImages($out, RowWork::BEFORE, RowWork::AFTER, $work->leaveVersioned($this->transaction->tables));
        try {
            $images->take($this->log(), $this->transaction->gtid);
        } catch (UnreadableArchive $unreadable) {
            throw CannotRestore::because("{$this->transaction->file} {$unreadable->getMessage()}.");
        }
        fclose($out);
        if (! $images->found) {
            throw CannotRestore::because(
                "{$this->transaction->file} cannot be read up to transaction {$this->transaction->gtid} any more.",
            );
        }
        if ($images->hasStatement || ($images->tables === [] && $work->impossible === [])) {
            throw CannotRestore::because(
                "Transaction {$this->transaction->gtid} cannot be reversed from the log: it ".
                    ($images->hasStatement
                        ? 'holds a statement that is not about rows ('.mb_strimwidth($this->transaction->statement, 0, 80, '...').')'
                        : 'changed no rows').
                    '. Restore the table, or its rows, from before it.',
            );
        }
        if ($images->partial !== []) {
            throw CannotRestore::because(
                'The log does not hold whole rows of '.
                    implode(', ', $images->partial).
                    ' (binlog_row_image is not FULL): restore its rows from before the transaction instead.',
            );
        }
        foreach ($images->opened as $table) {
            $this->remarks[] = "Rows of $table may have been removed by a foreign key's CASCADE, which the log does not show: bring its ".
                'rows back from before the transaction instead.';
        }
        $twins = $images->twins();
        foreach ($twins as $twin) {
            if (! $work->makeTwin($twin->schema, $twin->table, $twin->twin)) {
                throw CannotRestore::because(
                    "{$twin->schema}.{$twin->table} is not there any more: restore the table from before the transaction instead.",
                );
            }
        }
        if ($twins !== []) {
            $this->bench->server->admit(RowWork::BEFORE);
            $this->bench->server->admit(RowWork::AFTER);
            Tools::replay($this->bench->server->loader, $file);
        }
        $work->settleImages($twins, $images->ranges);

        return array_sum(array_column($twins, 'rows')).' row images';
    }

    /** @param  list<Reach>  $reaches  to the state before the transaction */
    public function load(array $reaches): void
    {
        foreach ($reaches as $reach) {
            $this->bench->load($reach, null);
        }
    }

    /**
     * @param  list<Reach>  $reaches
     * @param  list<string>|null  $only
     */
    public function fromTables(RowWork $work, array $reaches, ?array $only): string
    {
        $all = [...$reaches, ...$this->bench->loadParents($reaches, Stop::before($this->transaction->gtid))];
        $this->bench->roll($all, []);
        $link = $this->bench->link();
        $link->createSchema(self::COPIES);
        $pairs = [];
        $n = 0;
        foreach ($reaches as $reach) {
            foreach ($this->tables($reach) as $schema => $tables) {
                foreach ($tables as $table) {
                    if ($only !== null && ! in_array($table, $only, true)) {
                        continue;
                    }
                    $n++;
                    // invisible ones are not in an asterisk
                    $columns = Column::names((new SchemaFacts($link, $schema))->columns($table));
                    $link->exec(
                        'CREATE TABLE '.
                            Workbench::name(self::COPIES, "c$n").
                            ' SELECT '.
                            RowTerms::list($columns).
                            ' FROM '.
                            Workbench::name($schema, $table),
                    );
                    $pairs[] = new TablePair($schema, $table, Workbench::name(self::COPIES, "c$n"), $columns);
                }
            }
        }
        $this->bench->roll($all, [], $this->transaction->begins(), $this->transaction->ends());
        foreach ($pairs as $pair) {
            if (in_array($pair->table, (new SchemaFacts($link, $pair->schema))->tables(), true)) {
                $pair->after = Workbench::name($pair->schema, $pair->table);
            }
        }
        try {
            $work->settleTables($pairs);
        } catch (PDOException $failure) {
            throw CannotRestore::because('The rows before and after cannot be compared: '.mb_scrub($failure->getMessage()));
        }

        return count($pairs).' tables compared before and after it';
    }

    /** @return array<string, list<string>> schema => tables that the transaction may have changed */
    private function tables(Reach $reach): array
    {
        $tables = [];
        foreach ($reach->schemas as $schema) {
            $there = (new SchemaFacts($this->bench->link(), $schema))->tables();
            $named = array_values(
                array_map(
                    fn (TableCount $table): string => $table->table,
                    array_filter($this->transaction->tables, fn (TableCount $table): bool => $table->schema === $schema),
                ),
            );
            // What else a statement changed that was logged as text, by triggers and keys, one cannot see.
            $tables[$schema] =
                $this->transaction->hasTextStatement || ($this->transaction->isDefinition && $named === [])
                    ? $there
                    : array_values(array_intersect($there, $named));
        }

        return $tables;
    }
}
