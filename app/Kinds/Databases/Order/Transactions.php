<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Models\BackupSet;
use App\Models\Workload;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;
use Kaiseki\Core\Database\LogChain;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Database\LogPosition;
use Kaiseki\Core\Database\TableCount;

/** The timeline of a workload: its logs in their order, and the transactions in them. */
final class Transactions
{
    /** Sets that are asked for in one query. */
    private const AT_ONCE = 500;

    /** @var array<int, LogFacts> set id => log, in order */
    public readonly array $logs;

    /** @var array<string, int> file => id of its set */
    private readonly array $ids;

    /** @var array<int, BackupSet> those that somebody asked for, by id */
    private array $sets = [];

    public readonly LogChain $chain;

    public function __construct(public readonly Workload $workload)
    {
        $logs = $ids = [];
        // There may be a log for each quarter of an hour of years: what is known of them is held, and no more of their sets.
        foreach ($workload->sets()->where('level', 'log')->whereNotNull('facts')->toBase()->select('id', 'facts')->cursor() as $row) {
            $facts = LogFacts::fromArray((array) json_decode((string) $row->facts, true));
            $logs[(int) $row->id] = $facts;
            $ids[$facts->file] = (int) $row->id;
        }
        $this->chain = new LogChain(array_values($logs));
        $order = array_flip(array_map(fn (LogFacts $log): string => $log->file, $this->chain->logs));
        uasort($logs, fn (LogFacts $a, LogFacts $b): int => $order[$a->file] <=> $order[$b->file]);
        [$this->logs, $this->ids] = [$logs, $ids];
    }

    /** @throws InvalidArgumentException if there is no such log */
    public function idOf(LogFacts $log): int
    {
        return $this->ids[$log->file] ?? throw new InvalidArgumentException("There is no log {$log->file}.");
    }

    /** The set of a log. */
    public function setOf(string $file): ?BackupSet
    {
        return isset($this->ids[$file]) ? $this->setsOf([$file])[0] ?? null : null;
    }

    /** @throws InvalidArgumentException if there is none */
    public function mustBe(string $file): BackupSet
    {
        return $this->setOf($file) ?? throw new InvalidArgumentException("There is no log $file.");
    }

    /**
     * Their sets, with their copies.
     *
     * @param  list<string>  $files
     * @return list<BackupSet>
     */
    public function setsOf(array $files): array
    {
        $ids = array_values(array_filter(array_map(fn (string $file): ?int => $this->ids[$file] ?? null, $files)));
        foreach (array_chunk(array_diff($ids, array_keys($this->sets)), self::AT_ONCE) as $chunk) {
            $this->sets += BackupSet::query()->with('copies.store')->findMany($chunk)->keyBy('id')->all();
        }

        return array_values(array_filter(array_map(fn (int $id): ?BackupSet => $this->sets[$id] ?? null, $ids)));
    }

    /**
     * In the order of log and position.
     *
     * @param  list<string>|null  $files  of these logs only
     * @return iterable<LoggedTransaction>
     */
    public function all(?int $from = null, ?int $to = null, ?string $table = null, ?string $words = null, ?array $files = null): iterable
    {
        foreach ($this->logs as $set => $log) {
            if (($files !== null && ! in_array($log->file, $files, true)) || ($from !== null && $log->lastAt < $from)) {
                continue;
            }
            foreach ($this->filtered($this->of($set), $from, $to, $table, $words)->orderBy('position')->cursor() as $row) {
                $transaction = LoggedTransaction::ofRow($row, $log->file);
                if ($table === null || $transaction->isAbout($table)) {
                    yield $transaction;
                }
            }
        }
    }

    private function of(int $set): Builder
    {
        return DB::table('log_transactions')->where('set_id', $set);
    }

    private function filtered(Builder $query, ?int $from, ?int $to, ?string $table, ?string $words): Builder
    {
        if ($from !== null) {
            $query->where('at', '>=', $from);
        }
        if ($to !== null) {
            $query->where('at', '<=', $to);
        }
        if ($table !== null) {
            $name = str_contains($table, '.') ? explode('.', $table, 2)[1] : $table;
            $query->where(
                'tables',
                'like',
                '%'.addcslashes(substr((string) json_encode($name, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES), 0), '%_\\').'%',
            );
        }
        if ($words !== null && $words !== '') {
            $query->where('statement', 'like', '%'.addcslashes($words, '%_\\').'%');
        }

        return $query;
    }

    public function byGtid(string $gtid): ?LoggedTransaction
    {
        $row = DB::table('log_transactions')->where('gtid', $gtid)->whereIn('set_id', array_keys($this->logs))->orderBy('set_id')->first();

        return $row === null ? null : LoggedTransaction::ofRow($row, $this->logs[(int) $row->set_id]->file);
    }

    /** The first one, in the order of the logs, that begins at or behind a position and was committed at or after a moment. */
    public function firstSince(LogPosition $from, int $at, LogFacts ...$logs): ?LoggedTransaction
    {
        foreach ($logs as $log) {
            $row = $this->of($this->ids[$log->file])
                ->where('at', '>=', $at)
                ->when($log->file === $from->file, fn (Builder $query) => $query->where('position', '>=', $from->offset))
                ->orderBy('position')
                ->first();
            if ($row !== null) {
                return LoggedTransaction::ofRow($row, $log->file);
            }
        }

        return null;
    }

    /** The one in which an offset lies, not at its beginning; null for a place between two. */
    public function around(LogPosition $position): ?LoggedTransaction
    {
        $set = $this->ids[$position->file] ?? null;
        $row =
            $set === null
                ? null
                : $this->of($set)->where('position', '<', $position->offset)->where('end', '>', $position->offset)->first();

        return $row === null ? null : LoggedTransaction::ofRow($row, $position->file);
    }

    /** The last one that ends at or before a position. */
    public function lastBefore(LogPosition $position): ?LoggedTransaction
    {
        foreach (array_reverse($this->chain->logs) as $log) {
            if ($log->number() > $position->number()) {
                continue;
            }
            $row = $this->of($this->ids[$log->file])
                ->when($log->file === $position->file, fn (Builder $query) => $query->where('end', '<=', $position->offset))
                ->orderByDesc('position')
                ->first();
            if ($row !== null) {
                return LoggedTransaction::ofRow($row, $log->file);
            }
        }

        return null;
    }

    /** The first one that begins at or behind a position. */
    public function firstAfter(LogPosition $position): ?LoggedTransaction
    {
        foreach ($this->chain->logs as $log) {
            if ($log->number() < $position->number()) {
                continue;
            }
            $row = $this->of($this->ids[$log->file])
                ->when($log->file === $position->file, fn (Builder $query) => $query->where('position', '>=', $position->offset))
                ->orderBy('position')
                ->first();
            if ($row !== null) {
                return LoggedTransaction::ofRow($row, $log->file);
            }
        }

        return null;
    }

    /** Whether a table that a transaction is about was defined otherwise after it. */
    public function redefined(LoggedTransaction $transaction): bool
    {
        $ends = $transaction->ends();
        $since = array_values(
            array_map(
                fn (LogFacts $log): string => $log->file,
                array_filter($this->logs, fn (LogFacts $log): bool => $log->number() >= $ends->number()),
            ),
        );
        foreach ($transaction->tables as $table) {
            foreach ($this->all(null, null, $table->name(), null, $since) as $later) {
                if ($later->isDefinition && ! $ends->isAfter($later->begins())) {
                    return true;
                }
            }
        }

        return false;
    }

    /**
     * What was committed behind a position: transactions, and rows by table.
     *
     * @param  list<string>|null  $schemas
     */
    public function after(LogPosition $position, ?array $schemas = null): Committed
    {
        $sum = new Committed;
        foreach ($this->logs as $set => $log) {
            if ($log->number() < $position->number()) {
                continue;
            }
            $query = $this->of($set)->when(
                $log->file === $position->file,
                fn (Builder $query) => $query->where('position', '>=', $position->offset),
            );
            foreach (
                $query
                    ->orderBy('position')
                    ->select(['at', 'tables', 'schema'])
                    ->cursor() as $row
            ) {
                $tables = array_filter(
                    TableCount::ofJson($row->tables),
                    fn (TableCount $table): bool => $schemas === null || in_array($table->schema, $schemas, true),
                );
                if ($tables === [] && $schemas !== null && ! in_array($row->schema, $schemas, true)) {
                    continue;
                }
                $sum->transactions++;
                $sum->first ??= (int) $row->at;
                $sum->last = (int) $row->at;
                foreach ($tables as $table) {
                    $of = $sum->tables[$table->name()] ??= new TableChanges;
                    $of->transactions++;
                    $of->inserted += $table->inserted;
                    $of->updated += $table->updated;
                    $of->deleted += $table->deleted;
                }
            }
        }
        uasort($sum->tables, fn (TableChanges $a, TableChanges $b): int => $b->transactions <=> $a->transactions);

        return $sum;
    }
}
