<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Models\BackupSet;
use App\Models\Workload;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Database\LogChain;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Database\LogPosition;

/** The timeline of a workload: its logs in their order, and the transactions in them. */
final class Transactions
{
    /** @var array<int, LogFacts> set id => log, in order */
    public readonly array $logs;

    /** @var array<string, BackupSet> file => set */
    public readonly array $sets;

    public readonly LogChain $chain;

    public function __construct(public readonly Workload $workload)
    {
        $logs = $sets = [];
        foreach ($workload->sets()->where('level', 'log')->whereNotNull('facts')->with('copies.store')->get() as $set) {
            $facts = LogFacts::fromArray($set->facts ?? []);
            $logs[$set->id] = $facts;
            $sets[$facts->file] = $set;
        }
        $this->chain = new LogChain(array_values($logs));
        $order = array_flip(array_map(fn (LogFacts $log): string => $log->file, $this->chain->logs));
        uasort($logs, fn (LogFacts $a, LogFacts $b): int => $order[$a->file] <=> $order[$b->file]);
        [$this->logs, $this->sets] = [$logs, $sets];
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
            $row = $this->of($this->sets[$log->file]->id)
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
        $set = $this->sets[$position->file] ?? null;
        $row =
            $set === null
                ? null
                : $this->of($set->id)->where('position', '<', $position->offset)->where('end', '>', $position->offset)->first();

        return $row === null ? null : LoggedTransaction::ofRow($row, $position->file);
    }

    /** The last one that ends at or before a position. */
    public function lastBefore(LogPosition $position): ?LoggedTransaction
    {
        foreach (array_reverse($this->chain->logs) as $log) {
            if ($log->number() > $position->number()) {
                continue;
            }
            $row = $this->of($this->sets[$log->file]->id)
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
            $row = $this->of($this->sets[$log->file]->id)
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
        foreach ($transaction->tables as [$schema, $table]) {
            foreach ($this->all(null, null, "$schema.$table", null, $since) as $later) {
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
     * @return array{transactions: int, first: int|null, last: int|null, tables: array<string, array{int, int, int, int}>} table =>
     *     transactions, inserted, updated, deleted
     */
    public function after(LogPosition $position, ?array $schemas = null): array
    {
        $sum = ['transactions' => 0, 'first' => null, 'last' => null, 'tables' => []];
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
                    (array) json_decode($row->tables, true),
                    fn (array $table): bool => $schemas === null || in_array($table[0], $schemas, true),
                );
                if ($tables === [] && $schemas !== null && ! in_array($row->schema, $schemas, true)) {
                    continue;
                }
                $sum['transactions']++;
                $sum['first'] ??= (int) $row->at;
                $sum['last'] = (int) $row->at;
                foreach ($tables as [$schema, $name, $inserted, $updated, $deleted]) {
                    $of = &$sum['tables']["$schema.$name"];
                    $of = [($of[0] ?? 0) + 1, ($of[1] ?? 0) + $inserted, ($of[2] ?? 0) + $updated, ($of[3] ?? 0) + $deleted];
                    unset($of);
                }
            }
        }
        uasort($sum['tables'], fn (array $a, array $b): int => $b[0] <=> $a[0]);

        return $sum;
    }
}
