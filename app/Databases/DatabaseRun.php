<?php

declare(strict_types=1);

namespace App\Databases;

use App\Instance;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Runs\RunFiles;
use App\Runs\RunLedger;
use App\Runs\SetAsides;
use App\Runs\TargetLock;
use App\Trust\HostCommand;
use App\View\Words;
use Closure;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\Identifier;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Database\UnreadableLog;
use Kaiseki\Core\Files\UnableToRestore;
use PDOException;
use Throwable;

/**
 * Carries out the restore of a database. Until it puts something in place everything it makes is its own (a throw-away
 * server here, a schema of its own name there), so after a crash it begins anew; what is in place it goes on from.
 */
final class DatabaseRun
{
    public const STEPS = ['lock the target', 'look at the target', 'run the command before', 'load the dump', 'roll the logs forward', 'look at what came of it', 'bring it beside', 'check it there', 'put in place', 'check in place', 'run the command after'];

    private Run $run;

    private RunLedger $ledger;

    private DatabaseOrder $order;

    private ServerLink $target;

    private DatabasePoints $points;

    /** @var list<array{check: string, result: string, detail: string}> */
    private array $checks = [];

    /** @var list<string> */
    private array $remarks = [];

    /** @var array<string, array{rows: int, checksum: string|null}> "schema\0table" => what was read of it after the dump was loaded */
    private array $asLoaded = [];

    /** @var array<string, mixed> */
    private array $told = [];

    private float $lastTold = 0;

    /** @var list<Reach> */
    private array $reaches = [];

    /** The transaction whose log is all that was read. */
    private ?LoggedTransaction $readAlone = null;

    private int $stageBytes = 0;

    /** @var array<string, int> piece of work => bytes of the pieces before it */
    private array $before = [];

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
                ThrowAway::clear($this->folder());
                TargetLock::free($lock, 'server');
            }
        } catch (CannotRestore|CannotReachServer|UnableToRestore|UnreadableLog|UnreadableArchive|PDOException $failure) {
            $this->tidy();
            $this->ledger->fail($failure->getMessage(), $run->refresh()->stop_asked ? 'stopped' : 'failed', $this->whatWasDone());
        } catch (Throwable $bug) {
            $this->ledger->fail('Something went wrong that should not have: '.$bug->getMessage(), 'failed', $this->whatWasDone());
            throw $bug;
        }
    }

    /** @throws UnableToRestore if another run has it, also after the moment that a server needs to notice who is gone */
    private function lock(string $name): void
    {
        for ($tries = 0; ; $tries++) {
            try {
                TargetLock::take($name, 'server');

                return;
            } catch (UnableToRestore $taken) {
                if ($tries >= 20) {
                    throw $taken;
                }
                usleep(100_000);
            }
        }
    }

    /** Of a run that failed nothing half made stays at the server, unless it is in place. */
    private function tidy(): void
    {
        try {
            $link = ServerLink::to($this->order->server());
            $link->withoutLog();
            foreach ($this->swaps($link) as $swap) {
                $swap->forget();
            }
            foreach ($this->order->isInPlace() || $this->order->isByRows() ? [] : $this->order->schemas as $schema) {
                if ($link->one('SELECT 1 FROM information_schema.schemata WHERE schema_name = ? AND schema_comment = ?', [$schema, "kaiseki run {$this->run->label()}"]) !== null) {
                    $link->exec('SET foreign_key_checks = 0');
                    $link->exec('DROP DATABASE '.Identifier::quoted($schema));
                }
            }
            if ($this->order->isByRows() && ! $this->rowsAreChanged($link)) {
                $this->rowChange($link)->drop();
            }
        } catch (CannotReachServer|CannotRestore|PDOException) {
            // The server is gone: a later attempt of the same run clears what is left.
        }
    }

    private function whatWasDone(): string
    {
        foreach ($this->swaps() as $swap) {
            if (in_array($swap->state()['stage'], ['renamed', 'done'], true)) {
                return ' Tables had changed places before that; what was there is in the set-aside, and can be put back.';
            }
        }

        try {
            $isChanged = $this->order->isByRows() && $this->rowsAreChanged(ServerLink::to($this->order->server()));
        } catch (CannotReachServer|CannotRestore|PDOException) {
            return ' Whether anything at the server was changed could not be seen: it does not answer.';
        }

        return $isChanged ? ' The rows were changed before that, and can be put back.' : ' Nothing that was there was touched.';
    }

    private function rowChange(ServerLink $link): RowChange
    {
        return new RowChange($link, RowSchema::of($this->run), RunFiles::folder($this->run), $this->run->outcome['tables'] ?? []);
    }

    /** Also where an attempt was killed right after that, before it could say so. */
    private function rowsAreChanged(ServerLink $link): bool
    {
        return ($this->run->refresh()->outcome['applied'] ?? false) || $this->rowChange($link)->isDone();
    }

    private function folder(): string
    {
        return Instance::folder('tmp')."/database-run-{$this->run->id}";
    }

    private function carry(): void
    {
        $this->points = new DatabasePoints($this->run->workload);
        $reaches = $this->reaches = $this->points->forOrder($this->order);
        $this->remarks = [...$this->remarks, ...$this->points->remarks];
        $this->expectWork($reaches);
        $this->ledger->step(1, fn (): string => $this->lookAtTarget($reaches));
        $this->target = ServerLink::to($this->order->server());
        $this->target->withoutLog();
        $this->ledger->step(2, fn (): string => $this->command('before', $this->order->before));
        $this->ask('before');
        if ($this->order->isByRows()) {
            $this->carryRows();
        } else {
            $this->carrySchemas($reaches);
        }
        $this->target->again();
        $this->ask('after');
        $this->ledger->step(10, fn (): string => $this->command('after', $this->order->after));
        $this->finish();
    }

    /** @param  list<Reach>  $reaches */
    private function lookAtTarget(array $reaches): string
    {
        if ($this->isPlaced()) {
            return 'it was begun with before the interruption';
        }
        $checks = new DatabaseChecks($this->order, $reaches, $this->run);
        $this->told['before'] = $checks->lines;
        if ($checks->blockers() !== []) {
            throw CannotRestore::because(implode(' ', $checks->blockers()));
        }

        return count($checks->lines).' things were looked at';
    }

    private function isPlaced(): bool
    {
        foreach ($this->swaps() as $swap) {
            if ($swap->state()['stage'] !== 'none') {
                return true;
            }
        }

        return $this->order->isByRows() && $this->rowsAreChanged(ServerLink::to($this->order->server()));
    }

    /** @return array<string, Swap> schema => how it changes places */
    private function swaps(?ServerLink $link = null): array
    {
        if (! $this->order->isInPlace()) {
            return [];
        }
        $link ??= ServerLink::to($this->order->server());
        $swaps = [];
        foreach ($this->order->schemas as $schema) {
            $swaps[$schema] = new Swap($link, $schema, Swap::loadedName($this->run, $schema), Swap::asideName($this->run, $schema), $this->order->tables, RunFiles::folder($this->run).'/swap-'.hash('crc32b', $schema).'.json');
        }

        return $swaps;
    }

    /** @param  list<string>  $command */
    private function command(string $when, array $command): string
    {
        if ($command === []) {
            return 'none was given';
        }
        if ($when === 'before' && $this->isPlaced()) {
            return 'was run before the interruption';
        }
        $ran = HostCommand::run($when, $command, Instance::folder('tmp'), $this->order->commandLimit);
        $this->told['commands'][] = $ran->toArray();
        $this->checks[] = ['check' => "the command $when it: ".implode(' ', $command), 'result' => $ran->isRight() ? 'passed' : 'failed', 'detail' => $ran->remark() ?? sprintf('ended well after %.1f s', $ran->seconds)];
        if ($when === 'before' && ! $ran->isRight()) {
            throw CannotRestore::because((string) $ran->remark());
        }

        return $ran->remark() ?? sprintf('ended well after %.1f s', $ran->seconds);
    }

    private function ask(string $when): void
    {
        if ($this->order->query === '') {
            return;
        }
        $link = ServerLink::to($this->order->server());
        try {
            $link->exec('SET SESSION TRANSACTION READ ONLY');
            $link->exec('SET SESSION max_statement_time = 60');
            $schema = $when === 'after' ? array_values($this->order->schemas)[0] : (string) array_key_first($this->order->schemas);
            if ($link->hasSchema($schema)) {
                $link->exec('USE '.Identifier::quoted($schema));
            }
            $statement = $link->query($this->order->query);
            $rows = [];
            while (count($rows) < 100 && ($row = $statement->fetch(\PDO::FETCH_ASSOC)) !== false) {
                $rows[] = array_map(fn (?string $value): ?string => $value === null ? null : mb_strcut(mb_scrub($value), 0, 500), $row);
            }
            $this->told['query'][$when] = ['rows' => $rows];
        } catch (PDOException $failure) {
            $this->told['query'][$when] = ['error' => mb_scrub($failure->getMessage()), 'rows' => []];
        }
    }

    /**
     * How much there is to do: the dump is loaded, the logs are rolled forward, what came of it is brought beside.
     *
     * @param  list<Reach>  $reaches
     */
    private function expectWork(array $reaches): void
    {
        $dump = array_sum(array_map(fn (Reach $reach): int => max($reach->dump->bytes, (int) $reach->dump->tree_bytes), $reaches));
        // mariadb-binlog writes rows in base64.
        $logs = (int) (array_sum(array_map(fn (Reach $reach): int => $reach->logBytes(), $reaches)) * 1.4);
        $this->before = ['loading' => 0, 'rolling forward' => $dump, 'bringing it beside' => $dump + $logs];
        $this->run->update(['bytes_done' => 0, 'bytes_total' => $dump + $logs + ($this->order->isByRows() ? 0 : $dump), 'files_done' => 0, 'files_total' => array_sum(array_map(fn (Reach $reach): int => array_sum(array_map(fn (LogFacts $log): int => $log->transactions, $reach->logs)), $reaches))]);
    }

    /** Rows from the log alone: they are read, compared, kept and changed, each about as much work as the other. */
    private function expectStages(int $bytes): void
    {
        $this->run->update(['bytes_done' => 0, 'bytes_total' => 4 * $bytes, 'files_total' => 1]);
        $this->stageBytes = $bytes;
    }

    private function stageDone(): void
    {
        if ($this->stageBytes > 0) {
            $this->run->update(['bytes_done' => $this->run->bytes_done + $this->stageBytes, 'heartbeat_at' => now()]);
        }
    }

    private function progress(string $what, int $bytes): void
    {
        if (microtime(true) - $this->lastTold < 0.5) {
            return;
        }
        $this->lastTold = microtime(true);
        Run::query()->whereKey($this->run->id)->update(['bytes_done' => min($this->run->bytes_total, ($this->before[$what] ?? 0) + $bytes), 'heartbeat_at' => now()]);
        if ($this->also !== null) {
            ($this->also)("$what, ".Words::size($bytes));
        }
        if (Run::query()->whereKey($this->run->id)->value('stop_asked')) {
            throw CannotRestore::because('It was stopped on request.');
        }
    }

    private function bench(): Workbench
    {
        return new Workbench($this->points, $this->folder(), fn (string $what, int $bytes) => $this->progress($what === 'load' ? 'loading' : 'rolling forward', $bytes));
    }

    // ---- whole schemas and tables

    /** @param  list<Reach>  $reaches */
    private function carrySchemas(array $reaches): void
    {
        $swaps = $this->swaps($this->target);
        $isPlanned = $swaps !== [] && array_filter($swaps, fn (Swap $swap): bool => $swap->state()['stage'] === 'none') === [];
        if ($isPlanned) {
            // Everything is beside, and was right: only the change of places is left.
            foreach ([3, 4, 5, 6, 7] as $step) {
                $this->ledger->step($step, fn (): string => 'was done before the interruption');
            }
            $expected = $this->run->outcome['expected'] ?? [];
            $this->checks = [...$this->run->outcome['checks_before_place'] ?? [], ...$this->checks];
        } else {
            $expected = $this->bringBeside($reaches);
        }
        $definitions = array_map(fn (array $all): Definitions => new Definitions($all), $this->run->refresh()->outcome['definitions'] ?? []);
        $this->ledger->step(8, function () use ($swaps, $definitions): string {
            foreach ($swaps as $schema => $swap) {
                $swap->swap($definitions[$schema] ?? new Definitions([]), $this->run->outcome['keys'][$schema] ?? []);
                $this->remarks = [...$this->remarks, ...$swap->remarks];
            }

            return $swaps === [] ? 'it stays beside: nothing that is there was touched' : implode(', ', array_keys($swaps)).': what was there is kept in '.implode(', ', array_map(fn (Swap $swap): string => $swap->aside, $swaps));
        });
        $this->ledger->step(9, fn (): string => $this->checkInPlace($expected));
        if ($swaps !== []) {
            $position = $this->target->rows('SHOW MASTER STATUS')[0] ?? null;
            $this->told['break_at'] = $position === null ? null : "{$position['File']}:{$position['Position']}";
            $this->remarks[] = 'What was put in place is not in the logs of the server: make a full now, and a new history begins with it. Until then nothing can be rolled forward past this moment.';
        }
    }

    /**
     * @param  list<Reach>  $reaches
     * @return array<string, array<string, array{rows: int, checksum: string|null}>> schema at the target => what must be in it
     */
    private function bringBeside(array $reaches): array
    {
        $isDirect = $this->order->skip === [] && array_filter($reaches, fn (Reach $reach): bool => $reach->logs !== []) === [] && array_filter($reaches, fn (Reach $reach): bool => DumpFacts::sections($reach->dump) === [] || count(DumpFacts::sections($reach->dump)) < 2) === [];
        $bench = $this->bench();
        try {
            $counted = [];
            $this->ledger->step(3, function () use ($bench, $reaches, $isDirect, &$counted): string {
                $bytes = 0;
                foreach ($reaches as $reach) {
                    $bench->load($reach, $this->order->tables, ! $isDirect);
                    $bytes += $reach->dump->bytes;
                    if (! $isDirect) {
                        $counted += $this->compareWithDump($bench, $reach);
                    }
                }
                $this->requireTables($bench, $reaches);
                $this->tellWhatDumpsLack($bench);

                return implode(', ', array_map(fn (Reach $reach): string => $reach->dump->name, $reaches)).', '.Words::size($bytes).($isDirect ? ': definitions here, rows straight to the target' : '');
            });
            $this->ledger->step(4, function () use ($bench, $reaches, &$counted, $isDirect): string {
                if (! $isDirect) {
                    $bench->roll([...$reaches, ...$bench->loadParents($reaches, $this->order->stop)], $this->order->skip);
                }
                foreach ($bench->rolled as $key => $count) {
                    if (isset($counted[$key])) {
                        $counted[$key] += $count->inserted - $count->deleted;
                    }
                }
                $this->remarks = [...$this->remarks, ...$bench->remarks];
                $this->run->update(['files_done' => $bench->transactions]);

                return Words::count($bench->transactions, 'transaction');
            });
            $this->ledger->step(5, fn (): string => $isDirect ? 'nothing was rolled forward' : $this->compareCounts($bench, $counted));
            $expected = $definitions = [];
            $this->ledger->step(6, function () use ($bench, $reaches, $isDirect, &$expected, &$definitions): string {
                $bytes = 0;
                foreach ($reaches as $reach) {
                    foreach ($reach->schemas as $schema) {
                        $bytes += $this->target->withLongRows(function () use ($bench, $reach, $schema, $isDirect, &$expected, &$definitions): int {
                            return $this->copyOut($bench, $reach, $schema, $isDirect, $expected, $definitions);
                        });
                    }
                }

                return Words::size($bytes);
            });
            $this->told += ['expected' => $expected];
            $this->ledger->step(7, fn (): string => $this->checkBeside($expected));
            $this->run->update(['outcome' => ['expected' => $expected, 'definitions' => $definitions, 'checks_before_place' => $this->checks, 'keys' => $this->told['keys'] ?? []] + ($this->run->outcome ?? [])]);
        } finally {
            $bench->end();
        }

        return $expected;
    }

    private function tellWhatDumpsLack(Workbench $bench): void
    {
        $floats = $histories = [];
        foreach (array_keys($this->order->schemas) as $schema) {
            $facts = new SchemaFacts($bench->link(), (string) $schema);
            $tables = $this->order->tables ?? $facts->tables();
            $floats = [...$floats, ...array_filter($tables, fn (string $table): bool => ExactFloats::has($bench->link(), (string) $schema, $table))];
            $histories = [...$histories, ...array_intersect($tables, $facts->versioned())];
        }
        if ($floats !== []) {
            $this->remarks[] = 'FLOAT columns hold six digits in a dump, and so do the rows of '.implode(', ', $floats).' that were not changed after it.';
        }
        if ($histories !== []) {
            $this->remarks[] = implode(', ', $histories).' keeps a history of its rows (system versioning): it comes back with its rows as they were, without that history.';
        }
    }

    /** @param  list<Reach>  $reaches */
    private function requireTables(Workbench $bench, array $reaches): void
    {
        foreach ($this->order->tables ?? [] as $table) {
            $facts = new SchemaFacts($bench->link(), (string) array_key_first($this->order->schemas));
            if (! in_array($table, $facts->tables(), true) && $reaches[0]->logs === []) {
                throw CannotRestore::because("The dump {$reaches[0]->dump->name} holds no table \"$table\". It has: ".implode(', ', DumpFacts::ofSet($reaches[0]->dump)->schemas[$facts->schema] ?? []).'.');
            }
        }
    }

    /** @return array<string, int> "schema\0table" => rows as loaded */
    private function compareWithDump(Workbench $bench, Reach $reach): array
    {
        $counts = [];
        $recorded = DumpFacts::ofSet($reach->dump)->counted;
        $wrong = [];
        $compared = 0;
        foreach ($reach->schemas as $schema) {
            $facts = new SchemaFacts($bench->link(), $schema);
            $tables = $bench->loaded($schema) === null ? $facts->tables() : array_values(array_intersect($facts->tables(), $bench->loaded($schema)));
            foreach (isset($recorded[$schema]) ? $facts->contents($tables) : array_map(fn (int $rows): array => ['rows' => $rows, 'checksum' => null], $facts->rowCounts($tables)) as $table => $is) {
                $counts["$schema\0$table"] = $is['rows'];
                $was = $recorded[$schema][$table] ?? null;
                if ($was === null) {
                    continue;
                }
                $this->asLoaded["$schema\0$table"] = $is;
                $compared++;
                if ($was['rows'] !== $is['rows'] || ($was['checksum'] !== null && $is['checksum'] !== null && $was['checksum'] !== $is['checksum'])) {
                    $wrong[] = "$schema.$table: {$is['rows']} rows, were {$was['rows']}".($was['rows'] === $is['rows'] ? ', with another checksum' : '');
                }
            }
        }
        if ($compared > 0) {
            $this->checks[] = ['check' => 'rows and checksum of every table as they were counted when the dump was made', 'result' => $wrong === [] ? 'passed' : 'failed', 'detail' => $wrong === [] ? Words::count($compared, 'table') : implode('; ', array_slice($wrong, 0, 10))];
        }

        return $counts;
    }

    /**
     * What is in tables after rolling forward: those to which nothing came were read after loading.
     *
     * @param  list<string>  $tables
     * @return array<string, array{rows: int, checksum: string|null}>
     */
    private function contents(Workbench $bench, string $schema, array $tables): array
    {
        $known = [];
        foreach ($tables as $table) {
            if (isset($this->asLoaded["$schema\0$table"]) && ! $bench->hasChanged($schema, $table)) {
                $known[$table] = $this->asLoaded["$schema\0$table"];
            }
        }

        return $known + (new SchemaFacts($bench->link(), $schema))->contents(array_values(array_diff($tables, array_map(strval(...), array_keys($known)))));
    }

    /** @param  array<string, int>  $counted */
    private function compareCounts(Workbench $bench, array $counted): string
    {
        [$right, $wrong, $unknown] = [0, [], 0];
        foreach (array_keys($this->order->schemas) as $schema) {
            $facts = new SchemaFacts($bench->link(), (string) $schema);
            $versioned = $facts->versioned(); // an UPDATE of theirs is an insert too
            foreach (array_intersect($facts->tables(), $bench->loaded((string) $schema) ?? $facts->tables()) as $table) {
                $key = "$schema\0$table";
                $isKnown = isset($counted[$key]);
                if ($isKnown && ! $bench->hasChanged((string) $schema, $table)) {
                    $right++; // as it was counted when it was loaded

                    continue;
                }
                $rows = $facts->rowCounts([$table])[$table];
                if (! $isKnown || $bench->texts > 0 || isset($bench->uncounted[$key]) || in_array($table, $versioned, true)) {
                    $unknown++;
                } elseif ($counted[$key] === $rows) {
                    $right++;
                } else {
                    $wrong[] = "$schema.$table: $rows rows, {$counted[$key]} by the row events";
                }
            }
        }
        $this->checks[] = ['check' => 'rows of every table as the dump and the row events after it count them', 'result' => $wrong === [] ? 'passed' : 'failed', 'detail' => $wrong === [] ? Words::count($right, 'table').($unknown === 0 ? '' : "; $unknown cannot be counted from the logs (TRUNCATE, CASCADE, definitions, a history of their own)") : implode('; ', array_slice($wrong, 0, 10))];

        return Words::count($right, 'table').' as counted';
    }

    /**
     * @param  array<string, array<string, array{rows: int, checksum: string|null}>>  $expected
     * @param  array<string, list<array<string, mixed>>>  $definitions
     */
    private function copyOut(Workbench $bench, Reach $reach, string $schema, bool $isDirect, array &$expected, array &$definitions): int
    {
        $final = $this->order->schemas[$schema];
        $isInPlace = $this->order->isInPlace();
        $into = $isInPlace ? Swap::loadedName($this->run, $final) : $final;
        $this->target->exec('SET foreign_key_checks = 0');
        $this->target->exec('DROP DATABASE IF EXISTS '.Identifier::quoted($into)); // of an earlier attempt
        $like = (string) ($bench->link()->one('SELECT CONCAT("CHARACTER SET ", default_character_set_name, " COLLATE ", default_collation_name) FROM information_schema.schemata WHERE schema_name = ?', [$schema]) ?? '');
        $this->target->createSchema($into, "$like COMMENT 'kaiseki run {$this->run->label()}'");
        if ($isInPlace && ! $this->target->hasSchema($final)) {
            $this->target->createSchema($final, $like);
        }
        $copy = new SchemaCopy($bench->link(), $schema, $this->target, $into, $this->order->tables, $isInPlace ? $into : $final);
        foreach (array_diff($this->order->tables ?? [], $copy->tables) as $missing) {
            $this->remarks[] = "The table $schema.$missing was not there at that point.";
            $this->checks[] = ['check' => 'every table that was asked for is there', 'result' => 'failed', 'detail' => "$schema.$missing was not there at that point"];
        }
        $expected[$final] = $isDirect ? [] : $this->contents($bench, $schema, $copy->tables);
        $wanted = Definitions::of($bench->link(), $schema, $this->order->tables === null ? null : []);
        $copy->structure($this->order->tables === null);
        $bytes = 0;
        $told = function (int $done) use (&$bytes): void {
            $bytes = $done;
            $this->progress('bringing it beside', $done);
        };
        if ($isDirect) {
            Tools::loadRows($this->target, $into, SchemaCopy::prepared(SchemaCopy::counted($this->rowsOf($bench->dump(new Reach($reach->dump, [$schema], null, null, []), $this->order->tables), $into), $told)));
            foreach (DumpFacts::ofSet($reach->dump)->counted[$schema] ?? [] as $table => $was) {
                if (in_array($table, $copy->tables, true)) {
                    $expected[$final][$table] = $was;
                }
            }
        } else {
            $copy->rows($told);
        }
        if ($isInPlace) {
            $definitions[$final] = $wanted->all;
            $this->told['keys'][$final] = array_map(fn (array $key): array => ['schema' => $final, 'to_schema' => $final] + $key, $copy->keysLeftOut);
        } elseif ($copy->keysLeftOut !== []) {
            $this->remarks[] = 'Foreign keys into tables that were not asked for are left out: '.implode(', ', array_column($copy->keysLeftOut, 'name')).'.';
        }
        if (! $isInPlace && $this->order->tables === null) {
            $wanted->make($this->target, $into, $schema === $final ? null : $copy->renaming(), $schema !== $final || $this->order->server !== $this->run->workload->server?->name);
            $this->remarks = [...$this->remarks, ...$wanted->remarks];
        }

        return $bytes;
    }

    /**
     * Rows of a dump, whatever schema it names.
     *
     * @return iterable<string>
     */
    private function rowsOf(DumpLoad $load, string $into): iterable
    {
        foreach ($load->rows() as $piece) {
            yield str_starts_with($piece, 'USE `') ? 'USE '.Identifier::quoted($into).";\n" : $piece;
        }
    }

    /** @param  array<string, array<string, array{rows: int, checksum: string|null}>>  $expected */
    private function checkBeside(array $expected): string
    {
        $tables = 0;
        foreach ($expected as $schema => $contents) {
            $in = $this->order->isInPlace() ? Swap::loadedName($this->run, $schema) : $schema;
            $check = Tools::startCheck($this->target, $in); // meanwhile
            $tables += $this->compareContents(new SchemaFacts($this->target, $in), $contents, 'rows and checksum of every table as on the server that rolled it forward');
            $bad = Tools::found($check);
            $this->checks[] = ['check' => 'mariadb-check', 'result' => $bad === [] ? 'passed' : 'failed', 'detail' => $bad === [] ? $schema : implode('; ', array_slice($bad, 0, 5))];
        }

        return Words::count($tables, 'table');
    }

    /** @param  array<string, array{rows: int, checksum: string|null}>  $contents */
    private function compareContents(SchemaFacts $facts, array $contents, string $check): int
    {
        $wrong = [];
        foreach ($facts->contents(array_map(strval(...), array_keys($contents))) as $table => $is) {
            if ($is['rows'] !== $contents[$table]['rows'] || ($contents[$table]['checksum'] !== null && $is['checksum'] !== null && $is['checksum'] !== $contents[$table]['checksum'])) {
                $wrong[] = "$table: {$is['rows']} rows, wanted {$contents[$table]['rows']}".($is['rows'] === $contents[$table]['rows'] ? ', with another checksum' : '');
            }
        }
        $this->checks[] = ['check' => $check, 'result' => $wrong === [] ? 'passed' : 'failed', 'detail' => $wrong === [] ? Words::count(count($contents), 'table').' of '.$facts->schema : implode('; ', array_slice($wrong, 0, 10))];
        if ($wrong !== [] && $this->order->isInPlace() && ! $this->isPlaced()) {
            throw CannotRestore::because('What was loaded beside is not right, so nothing was put in place: '.implode('; ', array_slice($wrong, 0, 5)));
        }

        return count($contents);
    }

    /** @param  array<string, array<string, array{rows: int, checksum: string|null}>>  $expected */
    private function checkInPlace(array $expected): string
    {
        $objects = [];
        foreach ($expected as $schema => $contents) {
            $facts = new SchemaFacts($this->target, $schema);
            if ($this->order->isInPlace()) {
                $this->compareContents($facts, $contents, 'rows and checksum of every table, in place');
            }
            $orphans = $facts->orphans($this->order->tables);
            $this->checks[] = ['check' => 'every foreign key points at a row', 'result' => $orphans === [] ? 'passed' : 'failed', 'detail' => $orphans === [] ? Words::count(count($facts->foreignKeys()), 'key') : implode('; ', array_map(fn (string $key, int $rows): string => "$key: $rows rows point at nothing", array_keys($orphans), $orphans))];
            if ($this->order->tables === null) {
                $this->checkObjects($facts, $schema);
            }
            $this->told['contents'][$schema] = $contents === [] ? $facts->contents($this->order->tables) : $contents;
            $objects[] = implode(', ', array_map(fn (string $kind, int $count): string => "$count $kind", array_keys($facts->counts()), $facts->counts()));
        }

        return implode('; ', $objects);
    }

    private function checkObjects(SchemaFacts $facts, string $schema): void
    {
        $unmade = array_filter($this->remarks, fn (string $remark): bool => str_contains($remark, 'could not be made'));
        $invalid = [];
        foreach ($facts->views() as $view) {
            try {
                $this->target->rows('SELECT * FROM '.Workbench::name($schema, $view).' LIMIT 0');
            } catch (PDOException $failure) {
                $invalid[] = "$view: ".mb_scrub($failure->getMessage());
            }
        }
        $wrong = [...array_values($unmade), ...$invalid];
        $counts = $facts->counts();
        $this->checks[] = ['check' => 'views, triggers, routines, events and sequences', 'result' => $wrong === [] ? 'passed' : 'failed', 'detail' => $wrong === [] ? implode(', ', array_map(fn (string $kind, int $count): string => "$count $kind", array_keys($counts), $counts)) : implode('; ', $wrong)];
        $this->told['objects'][$schema] = $counts;
    }

    // ---- rows

    private function carryRows(): void
    {
        if ($this->rowsAreChanged($this->target)) {
            foreach ([3, 4, 5, 6, 7, 8] as $step) {
                $this->ledger->step($step, fn (): string => 'was done before the interruption');
            }
            $this->told += array_intersect_key($this->run->outcome, ['rows' => true, 'conflicts' => true, 'impossible' => true, 'tables' => true]);
            $this->checks = [...$this->run->outcome['checks_before_place'] ?? [], ...$this->checks];
        } else {
            $change = $this->settleRows();
            $this->run->update(['outcome' => ['checks_before_place' => $this->checks] + $this->told + ($this->run->outcome ?? [])]);
            $this->ledger->step(7, fn (): string => 'compared again in the transaction');
            $this->ledger->step(8, fn (): string => Words::count($change->carryOut(), 'row'));
        }
        $this->run->update(['outcome' => ['applied' => true] + ($this->run->refresh()->outcome ?? [])]);
        $sums = $this->told['rows'] ?? [];
        $this->ledger->step(9, function () use ($sums): string {
            $tables = $this->run->refresh()->outcome['tables'] ?? [];
            $this->checks[] = ['check' => 'every row that was to come back is as it was, read again in the transaction that did it', 'result' => 'passed', 'detail' => Words::count(($sums['insert'] ?? 0) + ($sums['set_back'] ?? 0) + ($sums['remove'] ?? 0), 'row')];
            $left = count($this->told['impossible'] ?? []);
            $this->checks[] = ['check' => 'nothing stood in the way', 'result' => ($sums['conflicts'] ?? 0) + $left === 0 ? 'passed' : 'failed', 'detail' => ($sums['conflicts'] ?? 0).' rows were changed since and are left as they are'.($left === 0 ? '' : '; '.implode('; ', array_map(fn (array $one): string => "{$one['table']}: {$one['because']}", $this->told['impossible'])))];
            $wrong = [];
            foreach (array_unique(array_column($tables, 'schema')) as $of) {
                $wrong += (new SchemaFacts($this->target, (string) $of))->orphans(array_column($tables, 'table'));
            }
            $this->checks[] = ['check' => 'every foreign key of these tables points at a row', 'result' => $wrong === [] ? 'passed' : 'failed', 'detail' => $wrong === [] ? Words::count(count($tables), 'table') : implode('; ', array_map(fn (string $key, int $rows): string => "$key: $rows rows point at nothing", array_keys($wrong), $wrong))];

            return count($tables).' tables';
        });
    }

    private function settleRows(): RowChange
    {
        $transaction = $this->points->transactions->byGtid($this->order->gtid) ?? throw CannotRestore::because("No log of {$this->run->workload->name} holds the transaction {$this->order->gtid}.");
        $bench = $this->bench();
        try {
            $rows = new RowWork($bench->link(), $this->target, $this->order->way === DatabaseOrder::REVERSE, $this->order->takeConflicts);
            $work = new RowSettling($bench, $this->points, $transaction, $this->folder());
            $reaches = $work->reaches($this->order);
            if ($reaches === null) {
                $this->readAlone = $transaction;
                $this->expectStages($transaction->end - $transaction->position);
                $this->ledger->step(3, fn (): string => 'not needed: the log holds the rows');
                $this->ledger->step(4, fn (): string => $work->fromImages($rows));
                $this->stageDone();
            } else {
                $this->reaches = $reaches;
                $this->expectWork($reaches);
                $this->ledger->step(3, function () use ($work, $reaches): string {
                    $work->load($reaches);

                    return implode(', ', array_map(fn (Reach $reach): string => $reach->dump->name, $reaches));
                });
                $this->ledger->step(4, fn (): string => $work->fromTables($rows, $reaches, $this->order->tables));
            }
            $this->remarks = [...$this->remarks, ...$work->remarks];
            $this->ledger->step(5, function () use ($rows): string {
                $rows->decide();
                $this->stageDone();
                $sums = $rows->sums();

                return "{$sums['insert']} to insert, {$sums['set_back']} to set back, {$sums['remove']} to take out, {$sums['same']} right already, {$sums['conflicts']} in conflict";
            });
            $this->remarks = [...$this->remarks, ...$rows->remarks];
            $this->told = RowSchema::told($rows) + ['tables' => $rows->tables] + $this->told;
            $this->ledger->step(6, function () use ($rows, &$change): string {
                $change = $this->target->withLongRows(fn (): RowChange => $rows->change(RowSchema::of($this->run), RunFiles::folder($this->run)));
                $this->stageDone();

                return 'kept in '.RowSchema::of($this->run).', so that it can be put back';
            });

            return $change ?? throw CannotRestore::because('What was settled could not be kept.');
        } finally {
            $bench->end();
        }
    }

    // ---- the end

    private function finish(): void
    {
        $run = $this->run->refresh();
        $right = array_filter($this->checks, fn (array $check): bool => $check['result'] === 'failed') === [];
        $rows = $tables = 0;
        foreach ($this->told['contents'] ?? [] as $contents) {
            $tables += count($contents);
            $rows += array_sum(array_column($contents, 'rows'));
        }
        if ($this->order->isByRows()) {
            $sums = $this->told['rows'] ?? [];
            [$rows, $tables] = [($sums['insert'] ?? 0) + ($sums['set_back'] ?? 0) + ($sums['remove'] ?? 0), count($this->told['tables'] ?? $run->outcome['tables'] ?? [])];
        }
        if ($this->target->tookLongRows) {
            $this->remarks[] = "A row is longer, as a statement, than {$this->order->server} takes: its max_allowed_packet was raised while it was loaded, and is what it was again.";
        }
        $canPutBack = $this->order->isInPlace() || ($this->order->isByRows() && $rows > 0);
        $until = $this->readAlone?->begins() ?? ($this->reaches[0]->until ?? null);
        $last = $until === null ? null : $this->points->transactions->lastBefore($until);
        $outcome = $this->told + [
            'kind' => 'database', 'rows_restored' => $rows, 'tables_restored' => $tables, 'checks' => $this->checks, 'remarks' => array_values(array_unique($this->remarks)), 'right' => $right, 'commands' => [],
            'reached' => ['position' => $until?->text(), 'gtid' => $last?->gtid, 'at' => $last?->moment()],
            'read' => $this->readAlone !== null ? [['set' => $this->readAlone->file, 'logs' => [], 'bytes' => $this->readAlone->end]] : array_map(fn (Reach $reach): array => ['set' => $reach->dump->name, 'logs' => array_map(fn ($log): string => $log->file, $reach->logs), 'bytes' => $reach->dump->bytes + $reach->logBytes()], $this->reaches),
            'set_aside' => $canPutBack ? 1 : 0, 'can_put_back' => $canPutBack, 'applied' => $run->outcome['applied'] ?? false, 'tables' => $run->outcome['tables'] ?? [],
        ];
        $run->update(['state' => 'done', 'outcome' => $outcome, 'ended_at' => now(), 'set_aside_until' => $canPutBack ? now()->addDays(SetAsides::DAYS) : null]);
        DatabaseProof::write($run, $this->order, $outcome);
        $this->ledger->tell(sprintf('Run %d ended: %s in %s, %s.', $run->id, Words::count($rows, 'row'), Words::count($tables, 'table'), $right ? 'all right' : 'not all right'), 'answer');
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
                if (! $this->rowsAreChanged($link)) {
                    throw CannotRestore::because("Run {$run->id} changed no rows.");
                }
                $returned = $this->rowChange($link)->carryOut(true);
                $this->rowChange($link)->drop();
            } else {
                if (! $this->order->isInPlace()) {
                    throw CannotRestore::because("Run {$run->id} replaced nothing: drop ".implode(', ', $this->order->schemas).' if it is not needed any more.');
                }
                $link->withoutLog();
                foreach ($this->swaps($link) as $swap) {
                    $returned += $swap->back();
                    $remarks = [...$remarks, ...$swap->remarks];
                }
            }
            $position = $link->rows('SHOW MASTER STATUS')[0] ?? null;
            $run->refresh();
            $run->update(['put_back_at' => now(), 'set_aside_until' => null, 'outcome' => ['put_back_break_at' => $this->order->isByRows() || $position === null ? null : "{$position['File']}:{$position['Position']}"] + ($run->outcome ?? [])]);
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
        $own = new self;
        [$own->run, $own->order] = [$run, DatabaseOrder::fromArray($run->plan)];
        $link = ServerLink::to($own->order->server());
        $link->withoutLog();
        $link->exec('SET foreign_key_checks = 0');
        if ($own->order->isByRows()) {
            $own->rowChange($link)->drop();
        }
        foreach ($own->swaps($link) as $swap) {
            $link->exec('DROP DATABASE IF EXISTS '.Identifier::quoted($swap->aside));
        }
        $run->update(['set_aside_until' => null, 'outcome' => ['can_put_back' => false] + ($run->outcome ?? [])]);
        TrailEntry::add("What run {$run->id} had kept aside was removed.", $run->request, null, $run);
    }
}
