<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Kinds\Databases\Intake\DumpFacts;
use App\Kinds\Databases\Intake\HistoryBreaks;
use App\Kinds\Databases\Server\ServerLink;
use App\Models\BackupSet;
use App\Models\Workload;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\GtidState;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Database\LogPosition;
use Kaiseki\Core\Instant;

/** Which states of a database can be reached, and how. */
final class DatabasePoints
{
    public readonly Transactions $transactions;

    /** @var list<BackupSet> newest first */
    public readonly array $dumps;

    public readonly SetReading $reading;

    /** @var list<string> what was done otherwise than asked, and why */
    public array $remarks = [];

    /** @param  SetReading|null  $reading  by which copies, and with what demands on a dump; null: any, as is best */
    public function __construct(public readonly Workload $workload, ?SetReading $reading = null)
    {
        $this->transactions = new Transactions($workload);
        $this->dumps = array_values(
            $workload->sets()->where('level', 'full')->whereNotNull('facts')->with('copies.store')->orderByDesc('instant')->get()->all(),
        );
        $this->reading = $reading ?? new SetReading($workload);
    }

    /** @return list<string> schemas that are in any dump */
    public function schemas(): array
    {
        $schemas = [];
        foreach ($this->dumps as $dump) {
            $schemas += DumpFacts::ofSet($dump)->schemas;
        }
        ksort($schemas);

        return array_values(
            array_filter(
                array_map(strval(...), array_keys($schemas)),
                fn (string $schema): bool => $schema !== '' && ! in_array($schema, ServerLink::OWN_SCHEMAS, true),
            ),
        );
    }

    /** Whether a dump may hold a schema: it names it, or does not say what it holds. */
    public function mayHold(string $schema): bool
    {
        foreach ($this->dumps as $dump) {
            $schemas = DumpFacts::ofSet($dump)->schemas;
            if (array_key_exists($schema, $schemas) || array_key_exists('', $schemas)) {
                return true;
            }
        }

        return $this->dumps === [];
    }

    /**
     * The place in the logs at which to stop; null for a state that only a dump holds.
     *
     * @throws CannotRestore
     */
    public function place(Stop $stop): ?LogPosition
    {
        if ($stop->kind === 'before' || $stop->kind === 'through') {
            GtidState::one($stop->value);
            $transaction =
                $this->transactions->byGtid($stop->value) ??
                throw CannotRestore::because(
                    "No log of {$this->workload->name} holds the transaction {$stop->value}.".$this->lastKnown(),
                );

            return $stop->kind === 'before' ? $transaction->begins() : $transaction->ends();
        }
        if ($stop->kind !== 'position') {
            return null;
        }
        $position = LogPosition::parse($stop->value);
        $log =
            $this->transactions->chain->log($position->file) ??
            throw CannotRestore::because("There is no log named \"{$position->file}\" here.".$this->lastKnown());
        if ($position->offset > $log->wholeUntil) {
            throw CannotRestore::because(
                sprintf(
                    '%s can be used up to %d only%s.%s',
                    $log->file,
                    $log->wholeUntil,
                    $log->problem === null ? '' : ": it {$log->problem}",
                    $this->lastKnown(),
                ),
            );
        }
        $within = $this->transactions->around($position);
        if ($within !== null) {
            $this->remarks[] =
                "{$position->text()} lies within transaction {$within->gtid}, which begins at {$within->position}: it ".
                'stops before that.';

            return $within->begins();
        }

        return $position;
    }

    private function lastKnown(): string
    {
        $newest = $this->newest();

        return $newest === null ? '' : " The logs go up to {$newest->gtid} at {$newest->moment()}.";
    }

    public function newest(): ?LoggedTransaction
    {
        $last =
            $this->transactions->chain->logs === [] ? null : $this->transactions->chain->logs[count($this->transactions->chain->logs) - 1];

        return $last === null ? null : $this->transactions->lastBefore(new LogPosition($last->file, PHP_INT_MAX));
    }

    /**
     * How schemas get there.
     *
     * @param  list<string>  $schemas
     * @return list<Reach>
     *
     * @throws CannotRestore
     */
    public function reach(Stop $stop, array $schemas): array
    {
        $place = $this->place($stop);
        /** @var array<int, array{BackupSet, list<string>}> $parts */
        $parts = [];
        $reaches = [];
        foreach ($schemas as $schema) {
            $dump = $this->dumpFor($schema, $stop, $place);
            $parts[$dump->id] = [$dump, [...$parts[$dump->id][1] ?? [], $schema]];
        }
        foreach ($parts as [$dump, $of]) {
            $reaches[] = $this->forward($dump, $of, $stop, $place);
        }

        return $reaches;
    }

    /**
     * What an order needs to be read: nothing but the log where that holds every row that is to come back.
     *
     * @param  bool  $whole  dumps and logs, also where the log alone was thought to do
     * @return list<Reach>
     *
     * @throws CannotRestore
     */
    public function forOrder(DatabaseOrder $order, bool $whole = false): array
    {
        $schemas = array_map(strval(...), array_keys($order->schemas));
        if (! $order->isByRows()) {
            return $this->reach($order->stop, $schemas);
        }
        if (! $whole && ($order->way === DatabaseOrder::REVERSE || $this->alone($order) !== null)) {
            return [];
        }
        $held = array_values(array_filter($schemas, fn (string $schema): bool => $this->mayHold($schema)));
        foreach ($held === [] ? [] : array_diff($schemas, $held) as $schema) {
            $this->remarks[] = "No dump holds the schema $schema: of its tables the rows from before are not known.";
        }

        return $this->reach($order->stop, $held === [] ? $schemas : $held);
    }

    /** The transaction of an order by rows, if its log is all that is to be read; null where a dump is needed too. */
    public function alone(DatabaseOrder $order): ?LoggedTransaction
    {
        $transaction = $order->isByRows() && $order->tables === null ? $this->transactions->byGtid($order->gtid) : null;

        $isClear = $transaction !== null && $transaction->showsItsRows() && ! $this->transactions->redefined($transaction);

        return $isClear ? $transaction : null;
    }

    private function dumpFor(string $schema, Stop $stop, ?LogPosition $place): BackupSet
    {
        $naming = array_values(
            array_filter($this->dumps, fn (BackupSet $dump): bool => array_key_exists($schema, DumpFacts::ofSet($dump)->schemas)),
        );
        // One that does not say what it holds is taken where no other does.
        $holding =
            $naming === []
                ? array_values(
                    array_filter($this->dumps, fn (BackupSet $dump): bool => array_key_exists('', DumpFacts::ofSet($dump)->schemas)),
                )
                : $naming;
        $isOldEnough = function (BackupSet $dump) use ($place, $stop): bool {
            $facts = DumpFacts::ofSet($dump);

            return $place !== null
                ? $facts->position() !== null && ! $facts->position()->isAfter($place)
                : $this->isBefore($dump, $facts, $stop);
        };
        $fitting = array_values(array_filter($holding, $isOldEnough));
        if ($fitting !== []) {
            return $this->newestMeeting($fitting, $schema);
        }
        throw CannotRestore::because(
            $holding !== []
                ? "No dump of $schema is old enough for that: the first is of ".
                    $holding[count($holding) - 1]->captured_at->format('Y-m-d\TH:i:s\Z').
                    '.'
                : "No dump holds a schema named \"$schema\". There are: ".implode(', ', $this->schemas()).'.',
        );
    }

    /**
     * The newest that meets what is demanded; one that is not known to be of one moment where no other does.
     *
     * @param  non-empty-list<BackupSet>  $dumps  newest first
     *
     * @throws CannotRestore
     */
    private function newestMeeting(array $dumps, string $schema): BackupSet
    {
        foreach ([true, false] as $isConsistent) {
            $passed = [];
            foreach ($dumps as $dump) {
                $unmet = $this->reading->unmet($dump, $isConsistent);
                if ($unmet === null) {
                    $this->remarks = array_values(array_unique([...$this->remarks, ...$passed]));

                    return $dump;
                }
                $passed[] = "The dump {$dump->name} was passed over: $unmet.";
            }
        }
        throw CannotRestore::because("No dump of $schema that is old enough can be taken. ".implode(' ', $passed));
    }

    private function isBefore(BackupSet $dump, DumpFacts $facts, Stop $stop): bool
    {
        if ($stop->kind === 'newest') {
            return true;
        }
        $moment = intdiv(Instant::parse($stop->value)->microseconds, 1_000_000);
        if ($facts->position() !== null) {
            // By what it holds, not by when it was written.
            $last = $this->transactions->lastBefore($facts->position());
            if ($last !== null && $last->file === $facts->logFile) {
                return $last->at < $moment;
            }
        }

        return $dump->captured_at->getTimestamp() <= $moment;
    }

    /**
     * @param  list<string>  $schemas
     *
     * @throws CannotRestore
     */
    private function forward(BackupSet $dump, array $schemas, Stop $stop, ?LogPosition $place): Reach
    {
        $facts = DumpFacts::ofSet($dump);
        $from = $facts->position();
        if ($from === null) {
            $this->remarks[] = "The dump {$dump->name} has no position in the logs: it is taken as it is, of {$dump->captured_at->format(
                'Y-m-d\TH:i:s\Z',
            )}.";

            return new Reach($dump, $schemas, null, null, []);
        }
        if ($place !== null && ! $place->isAfter($from)) {
            return new Reach($dump, $schemas, $from, $from, []);
        }
        if ($this->transactions->chain->logs === []) {
            $this->remarks[] = "There are no logs: the dump {$dump->name} is taken as it is, of {$dump->captured_at->format(
                'Y-m-d\TH:i:s\Z',
            )}.";

            return new Reach($dump, $schemas, $from, $from, []);
        }
        [$logs, $break] = $this->transactions->chain->from($from);
        [$logs, $break] = $this->readable($logs, $break);
        if ($place === null) {
            $next =
                $stop->kind === 'newest'
                    ? null
                    : $this->transactions->firstSince($from, self::second(Instant::parse($stop->value)), ...$logs);
            if ($next !== null) {
                $place = $next->begins();
            } elseif ($break !== null && $stop->kind !== 'newest') {
                throw $this->gap($break, $logs, $from, $dump);
            } elseif ($logs === []) {
                $place = $from;
            } else {
                $last = $logs[count($logs) - 1];
                $place = new LogPosition($last->file, $last->wholeUntil);
                if ($stop->kind === 'at') {
                    $newest = $this->transactions->lastBefore($place);
                    $this->remarks[] =
                        'The logs end at '.
                        ($newest === null ? $place->text() : "{$newest->gtid}, {$newest->moment()}").
                        ': what was committed after that is not in them.';
                }
            }
        }
        $needed = [];
        foreach ($logs as $log) {
            if ($log->number() <= $place->number()) {
                $needed[] = $log;
            }
        }
        $reached = $needed === [] ? $from : new LogPosition($needed[count($needed) - 1]->file, $needed[count($needed) - 1]->wholeUntil);
        if ($place->isAfter($reached)) {
            throw $this->gap($break ?? "{$reached->file} ends at {$reached->offset}", $logs, $from, $dump);
        }
        $this->refuseToPassOver($from, $place);
        if ($place->isAfter($from)) {
            return new Reach($dump, $schemas, $from, $place, $needed);
        }

        return new Reach($dump, $schemas, $from, $from, []);
    }

    /**
     * Where a run put another state in place, outside the log, the log goes on from that, and not from what is before it.
     *
     * @throws CannotRestore
     */
    private function refuseToPassOver(LogPosition $from, LogPosition $place): void
    {
        foreach (HistoryBreaks::of($this->workload) as [$position, $because]) {
            if ($position->isAfter($from) && $place->isAfter($position)) {
                $last = $this->transactions->lastBefore($position);
                throw CannotRestore::because(
                    "$because at {$position->text()}, and what was committed after that rests on another state. The last state that can ".
                        'be reached from this dump is '.
                        ($last === null ? $position->text() : "{$last->gtid}, committed at {$last->moment()} (--through={$last->gtid})").
                        '.',
                );
            }
        }
    }

    /** Of a transaction only the second is known: it counts as committed before a moment when that second had passed. */
    private static function second(Instant $moment): int
    {
        return intdiv($moment->microseconds, 1_000_000);
    }

    /**
     * @param  list<LogFacts>  $logs
     * @return array{list<LogFacts>, string|null}
     */
    private function readable(array $logs, ?string $break): array
    {
        foreach ($logs as $i => $log) {
            $because = $this->reading->unreadable($this->transactions->idOf($log));
            if ($because !== null) {
                return [array_slice($logs, 0, $i), "{$log->file} cannot be read: $because"];
            }
        }

        return [$logs, $break];
    }

    /** @param  list<LogFacts>  $logs */
    private function gap(string $break, array $logs, LogPosition $from, BackupSet $dump): CannotRestore
    {
        $last =
            $logs === []
                ? null
                : $this->transactions->lastBefore(new LogPosition($logs[count($logs) - 1]->file, $logs[count($logs) - 1]->wholeUntil));
        $reach =
            $last === null || $from->isAfter($last->begins())
                ? "the dump {$dump->name} itself, of {$dump->captured_at->format('Y-m-d\TH:i:s\Z')} (--position={$from->text()})"
                : "{$last->gtid}, committed at {$last->moment()} (--through={$last->gtid})";

        return CannotRestore::because("There is a gap in the logs: $break. The last state that can be reached is $reach.");
    }

    /** @throws UnreadableArchive if no copy of it can be read */
    public function open(BackupSet $set): ArchiveFile
    {
        return $this->reading->open($set);
    }
}
