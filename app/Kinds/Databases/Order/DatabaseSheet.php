<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\TouchedServer;
use App\Kinds\OrderSheet;
use App\Kinds\Touched;
use App\Looks\KeptLook;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;
use App\Rights\PersonRights;
use App\Sets\CannotPlan;
use App\Sets\CopyChoices;
use App\Sets\ReadingOfSets;
use App\Words;
use Carbon\CarbonImmutable;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Database\LogPosition;
use Kaiseki\Core\Database\WayEstimate;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Proof\CheckLine;

/** What is settled for a request about a database, what it means, and what still stands in the way of running it. */
final class DatabaseSheet implements OrderSheet
{
    public readonly Workload $workload;

    /** Where it lives; null if that is not known. */
    public readonly ?DatabaseServer $server;

    /** On a dump. */
    public readonly Demands $demands;

    public readonly DatabasePoints $points;

    /** @var array<string, mixed> as DatabaseInput reads it */
    public readonly array $choice;

    public readonly ?DatabaseOrder $order;

    /** @var list<Reach> */
    public readonly array $reaches;

    /** By which copies; null where nothing is settled, or what may be read does not suffice. */
    public readonly ?ReadingOfSets $reading;

    /** Why the order cannot be made, or the point not be reached. */
    public readonly ?string $problem;

    private ?CheckedServer $checks = null;

    private ?KeptLook $look = null;

    private ?Suspects $suspects = null;

    private ?LoggedTransaction $alone = null;

    private ?Committed $lost = null;

    public function __construct(public readonly RecoveryRequest $request)
    {
        assert($request->workload !== null);
        $this->workload = $request->workload;
        $this->server = DatabaseServer::of($request->workload);
        $this->demands = Demands::parse($request->demands);
        $this->points = new DatabasePoints($request->workload, new SetReading($request->workload, $request->copyRule(), $this->demands));
        $this->choice = $this->settled();
        $order = $problem = null;
        $reaches = [];
        $reading = null;
        try {
            $order = DatabaseInput::order($this->workload, $this->points, $this->choice)->withReading($request->copyRule(), $this->demands);
            $reaches = $this->reachesOf($order);
            $reading = $reaches === [] ? null : $this->points->reading->plan($reaches, $this->points->transactions);
        } catch (CannotRestore|CannotPlan|InvalidArgumentException $cannot) {
            $problem = $cannot->getMessage();
        }
        [$this->order, $this->reaches, $this->reading, $this->problem] = [$order, $reaches, $reading, $problem];
    }

    /**
     * What is to be read; for rows from the log alone, what the other ways would read.
     *
     * @return list<Reach>
     *
     * @throws CannotRestore
     */
    private function reachesOf(DatabaseOrder $order): array
    {
        $needed = $this->points->forOrder($order);
        if ($needed !== []) {
            return $needed;
        }
        try {
            return $this->points->forOrder($order, true);
        } catch (CannotRestore) {
            return [];
        }
    }

    /** @return array<string, mixed> what was decided, and for the rest what is safest: beside, as of the wanted moment */
    private function settled(): array
    {
        $choice = array_filter(
            DatabaseSaid::of($this->request)->choice,
            fn (mixed $value): bool => $value !== null && $value !== '' && $value !== [],
        );
        $byRows = isset($choice['rows-of']) || isset($choice['reverse']);
        $stop = $choice['at'] ?? $choice['before'] ?? $choice['through'] ?? $choice['position'] ?? null;
        if (! $byRows && $stop === null) {
            $choice['at'] = Instant::of($this->request->wanted_at)->iso();
        }
        $schemas = $this->points->schemas();
        if (! isset($choice['source-schema']) && count($schemas) > 0 && ! $byRows && ! ($choice['in-place'] ?? false)) {
            $choice['source-schema'] = $schemas[0];
        }
        if (! $byRows && ! ($choice['in-place'] ?? false) && ! isset($choice['schema']) && isset($choice['source-schema'])) {
            $choice['schema'] = mb_strcut("{$choice['source-schema']}_request_{$this->request->id}", 0, 64);
        }
        if (($choice['in-place'] ?? false) && isset($choice['tables'])) {
            unset($choice['schema']);
        }

        return $choice;
    }

    public function request(): RecoveryRequest
    {
        return $this->request;
    }

    /** The place in the logs at which it stops; null where that is not settled. */
    public function until(): ?LogPosition
    {
        return $this->reaches[0]->until ?? null;
    }

    /** When what comes back was last committed to. */
    public function reached(): ?LoggedTransaction
    {
        $until = $this->until();

        return $until === null ? null : $this->points->transactions->lastBefore($until);
    }

    /** The moment that comes back. */
    public function moment(): ?CarbonImmutable
    {
        $reached = $this->reached();

        return $reached !== null
            ? CarbonImmutable::createFromTimestampUTC($reached->at)
            : ($this->reaches === []
                ? null
                : $this->reaches[0]->dump->captured_at);
    }

    /** What was committed after the stop. */
    public function lost(): Committed
    {
        $until = $this->until();
        if ($until === null || $this->order === null) {
            return new Committed;
        }

        return $this->lost ??= $this->points->transactions->after($until, array_map(strval(...), array_keys($this->order->schemas)));
    }

    public function suspects(): Suspects
    {
        return $this->suspects ??= new Suspects(
            $this->points,
            $this->request->wanted_at->getTimestamp(),
            ($this->request->noticed_at ?? CarbonImmutable::now())->getTimestamp(),
        );
    }

    /** The looking at its server; null while no order is settled. */
    public function look(): ?KeptLook
    {
        return $this->order === null ? null : ($this->look ??= KeptLook::of($this->request, new ServerLook($this->request, [], $this)));
    }

    /** What was found at the server when somebody looked last; null if nobody looked yet with this order in hand. */
    public function checks(): ?CheckedServer
    {
        if ($this->checks === null) {
            $lines = $this->look()?->found()['lines'] ?? null;
            $this->checks = is_array($lines) ? new CheckedServer(CheckLine::all($lines)) : null;
        }

        return $this->checks;
    }

    public function lookAgain(): void
    {
        $this->checks = $this->order === null ? null : DatabaseChecks::of($this->order, $this->reaches);
    }

    public function blockers(): array
    {
        $blockers = $this->problem === null ? [] : [$this->problem];
        if ($this->problem === null) {
            $blockers = [...$blockers, ...$this->checks()?->blockers() ?? []];
        }
        if (in_array($this->request->state, ['running', 'closed'], true)) {
            $blockers[] = $this->request->state === 'running' ? 'A run for this request is at work.' : 'The request is closed.';
        }

        return $blockers;
    }

    public function sentence(string $zone): string
    {
        return $this->order === null ? 'The order is not settled yet.' : $this->order->inWords($this->workload->name, $zone);
    }

    public function fingerprint(): string
    {
        return hash(
            'sha256',
            json_encode(
                [$this->order?->toArray(), $this->until()?->text(), array_map(fn (Reach $reach): int => $reach->dump->id, $this->reaches)],
                JSON_THROW_ON_ERROR,
            ),
        );
    }

    public function touches(): Touched
    {
        return $this->order === null ? Touched::nothing() : TouchedServer::by($this->order);
    }

    public function needsApproval(): bool
    {
        return $this->order !== null && ($this->order->isInPlace() || $this->order->isByRows()) && $this->marked() !== [];
    }

    public function marked(): array
    {
        return [...$this->workload->needs_approval ? [$this->workload] : [], ...$this->touches()->marked()];
    }

    public function refusedTo(User $user): ?string
    {
        $reach = PersonRights::of($user);
        $read = array_values(array_unique($this->reading?->stores() ?? []));

        return $reach->refusesStores($this->request->copyRule()) ?? $reach->refusesReading($read) ?? $this->touches()->refusedTo($user);
    }

    public function sets(): array
    {
        $ids = [];
        foreach ($this->reaches as $reach) {
            $last = $reach->logs === [] ? [] : [$this->points->transactions->idOf($reach->logs[count($reach->logs) - 1])];
            $ids = [...$ids, $reach->dump->id, ...$last];
        }

        return array_values(array_unique($ids));
    }

    public function copies(): CopyChoices
    {
        $any = null;
        if ($this->reaches !== []) {
            try {
                $any = (new SetReading($this->workload))->plan($this->reaches, $this->points->transactions);
            } catch (CannotPlan) {
                $any = null;
            }
        }

        return new CopyChoices($this->points->reading->points(), $this->request, $this->reading, $any);
    }

    public function handSheet(): ?iterable
    {
        return $this->reaches === []
            ? null
            : [(new DatabaseHandSheet($this->points, $this->reaches, $this->order->skip ?? [], ''))->script()];
    }

    public function previewCounts(): array
    {
        $lost = $this->lost();

        return ($this->checks()?->notes() ?? []) + ['lost' => "after the stop: {$lost->transactions} transactions"];
    }

    public function runAttributes(bool $setFirst): array
    {
        assert($this->order !== null);

        return [
            'set_id' => $this->reaches[0]->dump->id ?? ($this->points->dumps[0]->id ?? null),
            'plan' => $this->order->toArray(),
            'bytes_total' => $this->bytes(),
            'is_whole' => $this->order->isWhole(),
            'estimate' => $this->estimate()?->toArray(),
        ];
    }

    /** The transaction whose log is all that is read; null where a dump is needed too. */
    public function alone(): ?LoggedTransaction
    {
        return $this->order === null ? null : ($this->alone ??= $this->points->alone($this->order));
    }

    /** Bytes that are read. */
    public function bytes(): int
    {
        $alone = $this->alone();

        return $alone !== null
            ? $alone->end
            : array_sum(array_map(fn (Reach $reach): int => $reach->dump->bytes + $reach->logBytes(), $this->reaches));
    }

    /** Transactions that are rolled forward. */
    public function transactions(): int
    {
        $count = 0;
        foreach ($this->reaches as $reach) {
            foreach ($reach->logs as $log) {
                $count += $log->transactions;
            }
        }

        return $count;
    }

    public function estimate(): ?WayEstimate
    {
        return $this->order === null ? null : (new Ways($this))->estimate($this->order->way, $this->order->tables);
    }

    public function whatInWords(): string
    {
        return $this->order === null ? 'something not settled yet' : $this->order->whatInWords();
    }

    public function whenInWords(string $zone): string
    {
        if ($this->order === null) {
            return 'a point not settled yet';
        }
        if ($this->order->way === DatabaseOrder::REVERSE) {
            return 'by the rows in the log';
        }
        $moment = $this->moment();

        if ($this->order->way === DatabaseOrder::ROWS) {
            return 'as they were right before it';
        }

        return match ($this->order->stop->kind) {
            'before' => 'as it was right before '.$this->order->stop->value,
            'through' => 'as it was right after '.$this->order->stop->value,
            default => 'as it was on '.($moment === null ? 'a moment not settled yet' : Words::moment($moment, $zone, false)),
        };
    }

    public function whereInWords(): string
    {
        if ($this->order === null) {
            return 'a place not settled yet';
        }

        return match (true) {
            $this->order->isByRows() => "the live tables of {$this->order->server}",
            $this->order->isInPlace() => "its place on {$this->order->server}",
            default => implode(', ', $this->order->schemas)." on {$this->order->server}",
        };
    }

    public function touchesInWords(): string
    {
        return match (true) {
            $this->order === null => 'something not settled yet',
            $this->order->isByRows() => $this->order->takeConflicts
                ? 'also rows that were changed since'
                : 'leaving rows that were changed since',
            $this->order->isInPlace() => 'keeping what is there now aside',
            default => 'touching nothing that is there',
        };
    }
}
