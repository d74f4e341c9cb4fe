<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Intake\DumpFacts;
use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Order\Reach;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\Tools;
use App\Kinds\Databases\Server\WorkAccount;
use App\Models\Run;
use App\Words;
use Kaiseki\Core\Database\Identifier;
use Kaiseki\Core\Database\KnownStatements;
use Kaiseki\Core\Database\UnknownStatement;
use PDOException;

/** Whole schemas, or tables of one: loaded and rolled forward on a throw-away server, brought beside, checked, and perhaps put in place. */
final class SchemaRestore
{
    private readonly Run $run;

    private readonly RunAtServer $there;

    /** @var array<string, array{rows: int, checksum: string|null}> "schema\0table" => what was read of it after the dump was loaded */
    private array $asLoaded = [];

    /** @param  string  $folder  for the throw-away server */
    public function __construct(
        private readonly RunAccount $account,
        private readonly DatabaseOrder $order,
        private readonly DatabasePoints $points,
        private readonly ServerLink $target,
        private readonly string $folder,
    ) {
        $this->run = $account->run;
        $this->there = new RunAtServer($this->run, $order);
    }

    /** @param  list<Reach>  $reaches */
    public function carryOut(array $reaches): void
    {
        $swaps = $this->there->swaps($this->target);
        $isPlanned = $swaps !== [] && array_filter($swaps, fn (Swap $swap): bool => $swap->state()['stage'] === 'none') === [];
        if ($isPlanned) {
            // Everything is beside, and was right: only the change of places is left.
            $this->account->wasDone(3, 4, 5, 6, 7);
            $expected = $this->run->outcome['expected'] ?? [];
        } else {
            $expected = $this->bring($reaches);
        }
        $kept = $this->run->refresh()->outcome['definitions'] ?? [];
        $definitions = array_map(fn (array $all): Definitions => new Definitions($all), $kept);
        $this->account->step(8, function () use ($swaps, $definitions): string {
            foreach ($swaps as $schema => $swap) {
                $swap->swap($definitions[$schema] ?? new Definitions([]), $this->run->outcome['keys'][$schema] ?? []);
                $this->account->remark(...$swap->remarks);
            }

            return $swaps === []
                ? 'it stays beside: nothing that is there was touched'
                : implode(', ', array_keys($swaps)).
                        ': what was there is kept in '.
                        implode(', ', array_map(fn (Swap $swap): string => $swap->aside, $swaps));
        });
        $this->account->step(9, fn (): string => $this->checkInPlace($expected));
        if ($swaps !== []) {
            $this->account->told['break_at'] = $this->target->logEnd()?->text();
            $this->account->remark(
                'What was put in place is not in the logs of the server: make a full now, and a new history begins with it. Until then '.
                    'nothing can be rolled forward past this moment.',
            );
        }
    }

    /**
     * @param  list<Reach>  $reaches
     * @return array<string, array<string, array{rows: int, checksum: string|null}>> schema at the target => what must be in it
     */
    private function bring(array $reaches): array
    {
        $isMore = fn (Reach $reach): bool => $reach->logs !== [] || count(DumpFacts::sections($reach->dump)) < 2;
        if ($this->order->skip === [] && array_filter($reaches, $isMore) === []) {
            try {
                return $this->bringBeside($reaches, true);
            } catch (UnknownStatement $unknown) {
                $this->account->remark(
                    "{$unknown->getMessage()} So the dump is loaded on the throw-away server, ".'and what came of it is brought over.',
                );
            }
        }

        return $this->bringBeside($reaches, false);
    }

    /**
     * @param  list<Reach>  $reaches
     * @param  bool  $isDirect  whether the rows go to the target without a stop here
     * @return array<string, array<string, array{rows: int, checksum: string|null}>>
     *
     * @throws UnknownStatement
     */
    private function bringBeside(array $reaches, bool $isDirect): array
    {
        $bench = $this->account->workbench($this->points, $this->folder);
        try {
            $counted = [];
            $this->account->step(3, function () use ($bench, $reaches, $isDirect, &$counted): string {
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

                return implode(', ', array_map(fn (Reach $reach): string => $reach->dump->name, $reaches)).
                    ', '.
                    Words::size($bytes).
                    ($isDirect ? ': definitions here, rows straight to the target' : '');
            });
            $this->account->step(4, function () use ($bench, $reaches, &$counted, $isDirect): string {
                if (! $isDirect) {
                    $bench->roll([...$reaches, ...$bench->loadParents($reaches, $this->order->stop)], $this->order->skip);
                }
                foreach ($bench->rolled as $key => $count) {
                    if (isset($counted[$key])) {
                        $counted[$key] += $count->inserted - $count->deleted;
                    }
                }
                $this->account->remark(...$bench->remarks);
                $this->run->update(['files_done' => $bench->transactions]);

                return Words::count($bench->transactions, 'transaction');
            });
            $this->account->step(5, fn (): string => $isDirect ? 'nothing was rolled forward' : $this->compareCounts($bench, $counted));
            $expected = $definitions = [];
            $this->account->step(6, function () use ($bench, $reaches, $isDirect, &$expected, &$definitions): string {
                $bytes = 0;
                foreach ($reaches as $reach) {
                    foreach ($reach->schemas as $schema) {
                        $bytes += $this->target->withLongRows(function () use (
                            $bench,
                            $reach,
                            $schema,
                            $isDirect,
                            &$expected,
                            &$definitions,
                        ): int {
                            return $this->copyOut($bench, $reach, $schema, $isDirect, $expected, $definitions);
                        });
                    }
                }

                return Words::size($bytes);
            });
            $this->account->told += ['expected' => $expected];
            $this->account->step(7, fn (): string => $this->checkBeside($expected));
            $this->account->keep(['expected' => $expected, 'definitions' => $definitions, 'keys' => $this->account->told['keys'] ?? []]);
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
            $floats = [
                ...$floats,
                ...array_filter($tables, fn (string $table): bool => ExactFloats::has($bench->link(), (string) $schema, $table)),
            ];
            $histories = [...$histories, ...array_intersect($tables, $facts->versioned())];
        }
        if ($floats !== []) {
            $this->account->remark(
                'FLOAT columns hold six digits in a dump, and so do the rows of '.
                    implode(', ', $floats).
                    ' that were not changed after it.',
            );
        }
        if ($histories !== []) {
            $this->account->remark(
                implode(', ', $histories).
                    ' keeps a history of its rows (system versioning): it comes back with its rows as they were, without that history.',
            );
        }
    }

    /** @param  list<Reach>  $reaches */
    private function requireTables(Workbench $bench, array $reaches): void
    {
        foreach ($this->order->tables ?? [] as $table) {
            $facts = new SchemaFacts($bench->link(), (string) array_key_first($this->order->schemas));
            if (! in_array($table, $facts->tables(), true) && $reaches[0]->logs === []) {
                throw CannotRestore::because(
                    "The dump {$reaches[0]->dump->name} holds no table \"$table\". It has: ".
                        implode(', ', DumpFacts::ofSet($reaches[0]->dump)->schemas[$facts->schema] ?? []).
                        '.',
                );
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
            $tables =
                $bench->loaded($schema) === null
                    ? $facts->tables()
                    : array_values(array_intersect($facts->tables(), $bench->loaded($schema)));
            foreach (
                isset($recorded[$schema])
                    ? $facts->contents($tables)
                    : array_map(fn (int $rows): array => ['rows' => $rows, 'checksum' => null], $facts->rowCounts($tables)) as $table => $is
            ) {
                $counts["$schema\0$table"] = $is['rows'];
                $was = $recorded[$schema][$table] ?? null;
                if ($was === null) {
                    continue;
                }
                $this->asLoaded["$schema\0$table"] = $is;
                $compared++;
                if (
                    $was['rows'] !== $is['rows'] ||
                    ($was['checksum'] !== null && $is['checksum'] !== null && $was['checksum'] !== $is['checksum'])
                ) {
                    $wrong[] =
                        "$schema.$table: {$is['rows']} rows, were {$was['rows']}".
                        ($was['rows'] === $is['rows'] ? ', with another checksum' : '');
                }
            }
        }
        if ($compared > 0) {
            $this->account->check(
                'rows and checksum of every table as they were counted when the dump was made',
                $wrong,
                Words::count($compared, 'table'),
            );
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

        return $known +
            (new SchemaFacts($bench->link(), $schema))->contents(
                array_values(array_diff($tables, array_map(strval(...), array_keys($known)))),
            );
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
        $this->account->check(
            'rows of every table as the dump and the row events after it count them',
            $wrong,
            Words::count($right, 'table').
                ($unknown === 0
                    ? ''
                    : "; $unknown cannot be counted from the logs (TRUNCATE, CASCADE, definitions, a history of their own)"),
        );

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
        $like =
            (string) ($bench
                ->link()
                ->one(
                    'SELECT CONCAT("CHARACTER SET ", default_character_set_name, " COLLATE ", default_collation_name) FROM '.
                        'information_schema.schemata WHERE schema_name = ?',
                    [$schema],
                ) ?? '');
        $this->target->createSchema($into, "$like COMMENT 'kaiseki run {$this->run->label()}'");
        if ($isInPlace && ! $this->target->hasSchema($final)) {
            $this->target->createSchema($final, $like);
        }
        $account = WorkAccount::make($this->target, $this->accountName(), WorkAccount::FILL, [$into], ['BINLOG ADMIN', 'SET USER']);
        try {
            $account->link->withoutLog();
            $copy = new SchemaCopy($bench->link(), $schema, $account->link, $into, $this->order->tables, $isInPlace ? $into : $final);
            array_map($account->mayReference(...), $copy->keysInto());
            $this->refuseMissing($copy, $schema);
            $expected[$final] = $isDirect ? [] : $this->contents($bench, $schema, $copy->tables);
            $copy->structure($this->order->tables === null);
            $bytes = $isDirect
                ? $this->rowsDirectly($bench, $reach, $schema, $account->link, $into, $copy, $expected[$final])
                : $this->rowsFromBench($copy);
            if ($isInPlace) {
                $here = ['schema' => $final, 'to_schema' => $final];
                $this->account->told['keys'][$final] = array_map(fn (array $key): array => $here + $key, $copy->keysLeftOut);
            } elseif ($copy->keysLeftOut !== []) {
                $names = implode(', ', array_column($copy->keysLeftOut, 'name'));
                $this->account->remark("Foreign keys into tables that were not asked for are left out: $names.");
            }
            $wanted = $this->order->tables === null ? $this->definitions($bench, $reach, $schema, $final) : new Definitions([]);
            if ($isInPlace) {
                $definitions[$final] = $wanted->all;
            } elseif ($this->order->tables === null) {
                $isElsewhere = $schema !== $final || $this->order->server !== DatabaseServer::of($this->run->workload)?->name;
                $wanted->make($account->link, $into, $schema === $final ? null : $copy->renaming(), $isElsewhere, $this->target);
                $this->account->remark(...$wanted->remarks);
            }
        } finally {
            $account->end();
        }

        return $bytes;
    }

    private function accountName(): string
    {
        return "run_{$this->run->label()}";
    }

    private function definitions(Workbench $bench, Reach $reach, string $schema, string $final): Definitions
    {
        $definers = new Definers($this->target, $final, Definers::areOurs($reach, $this->order->server(), $this->points));
        $wanted = $definers->settle(Definitions::of($bench->link(), $schema));
        $this->account->remark(...$definers->remarks);

        return $wanted;
    }

    private function refuseMissing(SchemaCopy $copy, string $schema): void
    {
        foreach (array_diff($this->order->tables ?? [], $copy->tables) as $missing) {
            $this->account->remark("The table $schema.$missing was not there at that point.");
            $this->account->check('every table that was asked for is there', ["$schema.$missing was not there at that point"], '');
        }
        if ($copy->tables === [] && $this->order->tables !== null) {
            throw CannotRestore::because("There was no {$this->order->tables[0]} in $schema at that point.");
        }
    }

    private function rowsFromBench(SchemaCopy $copy): int
    {
        $bytes = 0;
        try {
            $copy->rows($this->counting($bytes));
        } catch (UnknownStatement $unknown) {
            throw CannotRestore::because($unknown->getMessage());
        }

        return $bytes;
    }

    /**
     * @param  array<string, array{rows: int, checksum: string|null}>  $expected
     *
     * @throws UnknownStatement
     */
    private function rowsDirectly(
        Workbench $bench,
        Reach $reach,
        string $schema,
        ServerLink $to,
        string $into,
        SchemaCopy $copy,
        array &$expected,
    ): int {
        $bytes = 0;
        $rows = $this->rowsOf($bench->dump(new Reach($reach->dump, [$schema], null, null, []), $this->order->tables), $into);
        Tools::loadRows($to, $into, SchemaCopy::prepared(SchemaCopy::counted($rows, $this->counting($bytes))), new KnownStatements($into));
        $expected = array_intersect_key(DumpFacts::ofSet($reach->dump)->counted[$schema] ?? [], array_flip($copy->tables));

        return $bytes;
    }

    private function counting(int &$bytes): callable
    {
        return function (int $done) use (&$bytes): void {
            $bytes = $done;
            $this->account->progress('bringing it beside', $done);
        };
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
            $tables += $this->compareContents(
                new SchemaFacts($this->target, $in),
                $contents,
                'rows and checksum of every table as on the server that rolled it forward',
            );
            $bad = Tools::found($check);
            $this->account->check('mariadb-check', $bad, $schema);
            $this->refuseWrong($bad);
        }

        return Words::count($tables, 'table');
    }

    /** @param  array<string, array{rows: int, checksum: string|null}>  $contents */
    private function compareContents(SchemaFacts $facts, array $contents, string $check): int
    {
        $wrong = [];
        foreach ($facts->contents(array_map(strval(...), array_keys($contents))) as $table => $is) {
            if (
                $is['rows'] !== $contents[$table]['rows'] ||
                ($contents[$table]['checksum'] !== null && $is['checksum'] !== null && $is['checksum'] !== $contents[$table]['checksum'])
            ) {
                $wrong[] =
                    "$table: {$is['rows']} rows, wanted {$contents[$table]['rows']}".
                    ($is['rows'] === $contents[$table]['rows'] ? ', with another checksum' : '');
            }
        }
        $this->account->check($check, $wrong, Words::count(count($contents), 'table').' of '.$facts->schema);
        $this->refuseWrong($wrong);

        return count($contents);
    }

    /** @param  list<string>  $wrong  what must not take the place of what is there */
    private function refuseWrong(array $wrong): void
    {
        if ($wrong !== [] && $this->order->isInPlace() && ! $this->there->isPlaced()) {
            throw CannotRestore::because(
                'What was loaded beside is not right, so nothing was put in place: '.implode('; ', array_slice($wrong, 0, 5)),
            );
        }
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
            $this->account->check(
                'every foreign key points at a row',
                SchemaFacts::orphansInWords($orphans),
                Words::count(count($facts->foreignKeys()), 'key'),
            );
            if ($this->order->tables === null) {
                $this->checkObjects($facts, $schema);
            }
            $this->account->told['contents'][$schema] =
                $contents === []
                    ? $facts->contents(
                        $this->order->tables === null ? null : array_values(array_intersect($this->order->tables, $facts->tables())),
                    )
                    : $contents;
            $objects[] = implode(
                ', ',
                array_map(fn (string $kind, int $count): string => "$count $kind", array_keys($facts->counts()), $facts->counts()),
            );
        }

        return implode('; ', $objects);
    }

    private function checkObjects(SchemaFacts $facts, string $schema): void
    {
        $unmade = array_filter($this->account->remarks, fn (string $remark): bool => str_contains($remark, 'could not be made'));
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
        $this->account->check(
            'views, triggers, routines, events and sequences',
            $wrong,
            implode(', ', array_map(fn (string $kind, int $count): string => "$count $kind", array_keys($counts), $counts)),
        );
        $this->account->told['objects'][$schema] = $counts;
    }
}
