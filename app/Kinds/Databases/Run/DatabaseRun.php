<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Hosts\HostCommand;
use App\Instance;
use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseChecks;
use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Order\LoggedTransaction;
use App\Kinds\Databases\Order\Reach;
use App\Kinds\Databases\Rows\RowRestore;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Kinds\Databases\Server\Question;
use App\Kinds\Databases\Server\ServerLink;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Runs\RunLedger;
use App\Runs\RunMustWait;
use App\Runs\RunRefusal;
use App\Runs\SetAsides;
use App\Runs\Shelf;
use App\Runs\TargetLock;
use App\Sets\CannotPlan;
use App\Words;
use Closure;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\Identifier;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Database\UnreadableLog;
use Kaiseki\Core\Database\WayEstimate;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Proof\CheckLine;
use PDOException;
use Throwable;

/**
 * Carries out the restore of a database. Until it puts something in place everything it makes is its own (a throw-away
 * server here, a schema of its own name there), so after a crash it begins anew; what is in place it goes on from.
 */
final class DatabaseRun
{
    public const STEPS = [
        'lock the target',
        'look at the target',
        'run the command before',
        'load the dump',
        'roll the logs forward',
        'look at what came of it',
        'bring it beside',
        'check it there',
        'put in place',
        'check in place',
        'run the command after',
    ];

    private Run $run;

    private RunLedger $ledger;

    private DatabaseOrder $order;

    private ServerLink $target;

    private DatabasePoints $points;

    private RunAccount $account;

    private RunAtServer $there;

    /** @var list<Reach> what is read */
    private array $reaches = [];

    /** The transaction whose log is all that was read. */
    private ?LoggedTransaction $readAlone = null;

    /** @param  (Closure(string): void)|null  $also  told how far it is */
    public function __construct(private readonly ?Closure $also = null)
    {
    }

    public function carryOut(Run $run): void
    {
        $this->run = $run;
        $this->ledger = new RunLedger($run);
        if (! $this->ledger->claim(self::STEPS)) {
            return;
        }
        $this->order = DatabaseOrder::fromArray($run->plan);
        $this->account = new RunAccount($run, $this->ledger, $this->also);
        $this->there = new RunAtServer($run, $this->order);
        // What a killed attempt of this run left holds its connections, and with them its lock.
        ThrowAway::clear($this->folder());
        $lock = 'database '.$this->order->server.' '.implode(',', $this->order->schemas);
        try {
            $this->ledger->step(0, function () use ($lock): string {
                $this->lock($lock);

                return $this->order->server;
            });
            try {
                $this->carry();
            } finally {
                ($this->points ?? null)?->reading->release();
                ThrowAway::clear($this->folder());
                TargetLock::free($lock, 'server');
            }
        } catch (RunMustWait $wait) {
            $this->ledger->wait($wait);
        } catch (CannotRestore|CannotPlan|CannotReachServer|UnableToRestore|UnreadableLog|UnreadableArchive|PDOException $failure) {
            $this->there->tidy();
            $this->ledger->fail($failure->getMessage(), $run->refresh()->stop_asked ? 'stopped' : 'failed', $this->there->whatWasDone());
        } catch (Throwable $bug) {
            $this->ledger->fail('Something went wrong that should not have: '.$bug->getMessage(), 'failed', $this->there->whatWasDone());
            throw $bug;
        }
    }

    /** @throws UnableToRestore if another run has it, also after the moment that a server needs to notice who is gone */
    private function lock(string $name): void
    {
        for ($tries = 0; ; $tries++) {
            try {
                TargetLock::take(
                    $name,
                    'server',
                    (count($this->order->schemas) === 1 ? 'the schema ' : 'the schemas ').
                        implode(', ', $this->order->schemas).
                        " on {$this->order->server}",
                );

                return;
            } catch (UnableToRestore $taken) {
                if ($tries >= 20) {
                    throw $taken;
                }
                usleep(100_000);
            }
        }
    }

    private function folder(): string
    {
        return Instance::folder('tmp')."/database-run-{$this->run->id}";
    }

    private function carry(): void
    {
        RunRefusal::check($this->run);
        $this->points = new DatabasePoints($this->run->workload, $this->order->reading($this->run->workload));
        $reaches = $this->reaches = $this->points->forOrder($this->order);
        $this->account->remark(...$this->points->remarks);
        $this->account->expectWork($reaches, $this->order->isByRows());
        $this->ledger->step(1, fn (): string => $this->lookAtTarget($reaches));
        $this->target = ServerLink::to($this->order->server());
        $this->target->withoutLog();
        $this->ledger->step(2, fn (): string => $this->command('before', $this->order->before));
        $this->ask('before');
        if ($this->order->isByRows()) {
            $rows = new RowRestore($this->account, $this->order, $this->points, $this->target, $this->folder());
            $rows->carryOut();
            [$this->readAlone, $this->reaches] = [$rows->readAlone, $rows->reaches];
        } else {
            (new SchemaRestore($this->account, $this->order, $this->points, $this->target, $this->folder()))->carryOut($reaches);
        }
        $this->target->again();
        $this->ask('after');
        $this->ledger->step(10, fn (): string => $this->command('after', $this->order->after));
        $this->finish();
    }

    /** @param  list<Reach>  $reaches */
    private function lookAtTarget(array $reaches): string
    {
        if ($this->there->isPlaced()) {
            return 'it was begun with before the interruption';
        }
        $checks = DatabaseChecks::of($this->order, $reaches, $this->run);
        $this->account->told['before'] = CheckLine::kept($checks->lines);
        if ($checks->blockers() !== []) {
            throw CannotRestore::because(implode(' ', $checks->blockers()));
        }
        if (($this->run->outcome['seen'] ?? null) === null) {
            $this->account->keep(['seen' => RunAtServer::seen(ServerLink::to($this->order->server()))]);
        }

        return count($checks->lines).' things were looked at; '.$this->attach($reaches);
    }

    /**
     * @param  list<Reach>  $reaches
     *
     * @throws RunMustWait if a cartridge that is needed stands on the shelf
     */
    private function attach(array $reaches): string
    {
        if ($reaches === []) {
            return 'nothing has to be attached';
        }
        $reading = $this->points->reading->plan($reaches, $this->points->transactions);
        $this->run->update(['estimate' => $this->run->estimate ?? $this->estimate($reaches)->withReading($reading->estimate())->toArray()]);

        return Shelf::attach($this->run, $reading->estimate()->toFetch, $reading->media());
    }

    /** @param  list<Reach>  $reaches */
    private function estimate(array $reaches): WayEstimate
    {
        $dump = array_sum(array_map(fn (Reach $reach): int => max($reach->dump->bytes, (int) $reach->dump->tree_bytes), $reaches));
        $logs = array_sum(array_map(fn (Reach $reach): int => $reach->logBytes(), $reaches));
        $transactions = 0;
        foreach ($reaches as $reach) {
            $transactions += array_sum(array_map(fn (LogFacts $log): int => $log->transactions, $reach->logs));
        }

        return $this->order->isByRows()
            ? WayEstimate::rows($dump, $logs, $transactions, 0, WorkMeasurements::now())
            : WayEstimate::whole($dump, $dump, $logs, $transactions, $this->order->isInPlace(), WorkMeasurements::now());
    }

    /** @param  list<string>  $command */
    private function command(string $when, array $command): string
    {
        if ($command === []) {
            return 'none was given';
        }
        if ($when === 'before' && $this->there->isPlaced()) {
            return 'was run before the interruption';
        }
        $ran = HostCommand::run($when, $command, Instance::folder('tmp'), $this->order->commandLimit);
        $this->account->told['commands'][] = $ran->toArray();
        $this->account->check(
            "the command $when it: ".implode(' ', $command),
            $ran->isRight() ? [] : [(string) $ran->remark()],
            $ran->remark() ?? sprintf('ended well after %.1f s', $ran->seconds),
        );
        if ($when === 'before' && ! $ran->isRight()) {
            throw CannotRestore::because((string) $ran->remark());
        }

        return $ran->remark() ?? sprintf('ended well after %.1f s', $ran->seconds);
    }

    private function ask(string $when): void
    {
        if ($this->order->query !== '') {
            $this->account->told['query'][$when] = (new Question($this->order, "ask_{$this->run->label()}"))->answer($when === 'after');
        }
    }

    private function finish(): void
    {
        $run = $this->run->refresh();
        [$rows, $tables] = $this->howMuch();
        if ($this->target->tookLongRows) {
            $this->account->remark(
                "A row is longer, as a statement, than {$this->order->server} takes: its max_allowed_packet was raised while it was ".
                    'loaded, and is what it was again.',
            );
        }
        $canPutBack = $this->order->isInPlace() || ($this->order->isByRows() && $rows > 0);
        $outcome = $this->outcome($run, $rows, $tables, $canPutBack);
        $run->update([
            'state' => 'done',
            'outcome' => $outcome,
            'ended_at' => now(),
            'set_aside_until' => $canPutBack ? now()->addDays(SetAsides::DAYS) : null,
        ]);
        $dumps = array_sum(array_map(fn (Reach $reach): int => max($reach->dump->bytes, (int) $reach->dump->tree_bytes), $this->reaches));
        WorkMeasurements::take($run, $dumps, array_sum(array_map(fn (Reach $reach): int => $reach->logBytes(), $this->reaches)));
        DatabaseProof::write($run, $this->order, $outcome);
        $this->ledger->tell(
            sprintf(
                'Run %d ended: %s in %s, %s.',
                $run->id,
                Words::count($rows, 'row'),
                Words::count($tables, 'table'),
                $outcome['right'] ? 'all right' : 'not all right',
            ),
            'answer',
        );
    }

    /** @return array{int, int} rows that came back, and of how many tables */
    private function howMuch(): array
    {
        if ($this->order->isByRows()) {
            $sums = $this->account->told['rows'] ?? [];
            $tables = $this->account->told['tables'] ?? ($this->run->outcome['tables'] ?? []);

            return [($sums['insert'] ?? 0) + ($sums['set_back'] ?? 0) + ($sums['remove'] ?? 0), count($tables)];
        }
        $rows = $tables = 0;
        foreach ($this->account->told['contents'] ?? [] as $contents) {
            $tables += count($contents);
            $rows += array_sum(array_column($contents, 'rows'));
        }

        return [$rows, $tables];
    }

    /** @return array<string, mixed> as the run keeps it, and as it is signed */
    private function outcome(Run $run, int $rows, int $tables, bool $canPutBack): array
    {
        $until = $this->readAlone?->begins() ?? ($this->reaches[0]->until ?? null);
        $last = $until === null ? null : $this->points->transactions->lastBefore($until);
        $read = fn (Reach $reach): array => [
            'set' => $reach->dump->name,
            'logs' => array_map(fn ($log): string => $log->file, $reach->logs),
            'bytes' => $reach->dump->bytes + $reach->logBytes(),
        ];

        return $this->account->told + [
            'kind' => 'database',
            'rows_restored' => $rows,
            'tables_restored' => $tables,
            'checks' => CheckLine::kept($this->account->checks),
            'remarks' => $this->account->remarks,
            'right' => CheckLine::wrong($this->account->checks) === [],
            'commands' => [],
            'reached' => ['position' => $until?->text(), 'gtid' => $last?->gtid, 'at' => $last?->moment()],
            'read' => $this->readAlone === null
                ? array_map($read, $this->reaches)
                : [['set' => $this->readAlone->file, 'logs' => [], 'bytes' => $this->readAlone->end]],
            'set_aside' => $canPutBack ? 1 : 0,
            'can_put_back' => $canPutBack,
            'applied' => $run->outcome['applied'] ?? false,
            'tables' => $run->outcome['tables'] ?? [],
        ];
    }

    /**
     * Undoes what a run put in place.
     *
     * @return array{returned: int, remarks: list<string>}
     *
     * @throws CannotRestore
     */
    public function putBack(Run $run): array
    {
        $this->run = $run;
        $this->order = DatabaseOrder::fromArray($run->plan);
        $this->there = new RunAtServer($run, $this->order);
        if (! (new RunLedger($run))->giveUp()) {
            throw CannotRestore::because("Run {$run->id} is still at work there.");
        }
        if ($run->put_back_at !== null) {
            throw CannotRestore::because("Run {$run->id} was put back already.");
        }
        ThrowAway::clear($this->folder());
        $lock = 'database '.$this->order->server.' '.implode(',', $this->order->schemas);
        $this->lock($lock);
        try {
            $link = ServerLink::to($this->order->server());
            $returned = 0;
            $remarks = [];
            if ($this->order->isByRows()) {
                if (! $this->there->rowsAreChanged($link)) {
                    throw CannotRestore::because("Run {$run->id} changed no rows.");
                }
                $returned = $this->there->rowChange($link)->carryOut(true);
                $this->there->rowChange($link)->drop();
            } else {
                if (! $this->order->isInPlace()) {
                    throw CannotRestore::because(
                        "Run {$run->id} replaced nothing: drop ".implode(', ', $this->order->schemas).' if it is not needed any more.',
                    );
                }
                $link->withoutLog();
                foreach ($this->there->swaps($link) as $swap) {
                    $returned += $swap->back();
                    $remarks = [...$remarks, ...$swap->remarks];
                }
            }
            $run->refresh();
            $run->update([
                'put_back_at' => now(),
                'set_aside_until' => null,
                'outcome' => ['put_back_break_at' => $this->order->isByRows() ? null : $link->logEnd()?->text()] + ($run->outcome ?? []),
            ]);
            TrailEntry::add("Run {$run->id} was put back.", $run->request, null, $run);

            return ['returned' => $returned, 'remarks' => $remarks];
        } finally {
            TargetLock::free($lock, 'server');
        }
    }

    /**
     * Drops what a run keeps aside: it cannot be put back any more.
     *
     * @throws CannotReachServer
     */
    public static function clearAside(Run $run): void
    {
        $order = DatabaseOrder::fromArray($run->plan);
        $there = new RunAtServer($run, $order);
        $link = ServerLink::to($order->server());
        $link->withoutLog();
        $link->exec('SET foreign_key_checks = 0');
        if ($order->isByRows()) {
            $there->rowChange($link)->drop();
        }
        foreach ($there->swaps($link) as $swap) {
            $link->exec('DROP DATABASE IF EXISTS '.Identifier::quoted($swap->aside));
        }
        $run->update(['set_aside_until' => null, 'outcome' => ['can_put_back' => false] + ($run->outcome ?? [])]);
        TrailEntry::add("What run {$run->id} had kept aside was removed.", $run->request, null, $run);
    }
}
