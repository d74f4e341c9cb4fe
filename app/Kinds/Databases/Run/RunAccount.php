<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Order\Reach;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Words;
use Closure;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Proof\CheckLine;

/** What a run of a database tells: its steps, what it checked, what should be known of it, and how far it is. */
final class RunAccount
{
    /** @var list<CheckLine> */
    public array $checks = [];

    /** @var list<string> */
    public array $remarks = [];

    /** @var array<string, mixed> what is kept of it besides */
    public array $told = [];

    private float $lastTold = 0;

    private int $stageBytes = 0;

    /** @var array<string, int> piece of work => bytes of the pieces before it */
    private array $before = [];

    /** @param  (Closure(string): void)|null  $also  told how far it is */
    public function __construct(public readonly Run $run, private readonly RunLedger $ledger, private readonly ?Closure $also)
    {
    }

    /** @param  callable(): string  $work */
    public function step(int $position, callable $work): void
    {
        $this->ledger->step($position, $work);
    }

    /** An earlier attempt did these steps, and what it checked counts. */
    public function wasDone(int ...$steps): void
    {
        foreach ($steps as $step) {
            $this->ledger->step($step, fn (): string => 'was done before the interruption');
        }
        $this->checks = [...CheckLine::all($this->run->outcome['checks_before_place'] ?? []), ...$this->checks];
    }

    /** @param  list<string>  $wrong  none if it passed */
    public function check(string $check, array $wrong, string $right): void
    {
        $this->checks[] = CheckLine::unless($wrong, $check, $right);
    }

    public function remark(string ...$remarks): void
    {
        $this->remarks = array_values(array_unique([...$this->remarks, ...array_values($remarks)]));
    }

    /** @param  array<string, mixed>  $outcome  what a later attempt goes on from */
    public function keep(array $outcome): void
    {
        $checks = ['checks_before_place' => CheckLine::kept($this->checks)];
        $this->run->update(['outcome' => $outcome + $checks + ($this->run->refresh()->outcome ?? [])]);
    }

    /**
     * How much there is to do: the dump is loaded, the logs are rolled forward, what came of it is brought beside.
     *
     * @param  list<Reach>  $reaches
     */
    public function expectWork(array $reaches, bool $isByRows): void
    {
        $dump = array_sum(array_map(fn (Reach $reach): int => max($reach->dump->bytes, (int) $reach->dump->tree_bytes), $reaches));
        // mariadb-binlog writes rows in base64.
        $logs = (int) (array_sum(array_map(fn (Reach $reach): int => $reach->logBytes(), $reaches)) * 1.4);
        $this->before = ['loading' => 0, 'rolling forward' => $dump, 'bringing it beside' => $dump + $logs];
        $this->run->update([
            'bytes_done' => 0,
            'bytes_total' => $dump + $logs + ($isByRows ? 0 : $dump),
            'files_done' => 0,
            'files_total' => array_sum(
                array_map(
                    fn (Reach $reach): int => array_sum(array_map(fn (LogFacts $log): int => $log->transactions, $reach->logs)),
                    $reaches,
                ),
            ),
        ]);
    }

    /** Rows from the log alone: they are read, compared, kept and changed, each about as much work as the other. */
    public function expectStages(int $bytes): void
    {
        $this->run->update(['bytes_done' => 0, 'bytes_total' => 4 * $bytes, 'files_total' => 1]);
        $this->stageBytes = $bytes;
    }

    public function stageDone(): void
    {
        if ($this->stageBytes > 0) {
            $this->run->update(['bytes_done' => $this->run->bytes_done + $this->stageBytes, 'heartbeat_at' => now()]);
        }
    }

    /** A throw-away server whose work counts as this run's. */
    public function workbench(DatabasePoints $points, string $folder): Workbench
    {
        return new Workbench(
            $points,
            $folder,
            fn (string $what, int $bytes) => $this->progress($what === 'load' ? 'loading' : 'rolling forward', $bytes),
        );
    }

    public function progress(string $what, int $bytes): void
    {
        if (microtime(true) - $this->lastTold < 0.5) {
            return;
        }
        $this->lastTold = microtime(true);
        Run::query()
            ->whereKey($this->run->id)
            ->update(['bytes_done' => min($this->run->bytes_total, ($this->before[$what] ?? 0) + $bytes), 'heartbeat_at' => now()]);
        if ($this->also !== null) {
            ($this->also)("$what, ".Words::size($bytes));
        }
        if (Run::query()->whereKey($this->run->id)->value('stop_asked')) {
            throw CannotRestore::because('It was stopped on request.');
        }
    }
}
