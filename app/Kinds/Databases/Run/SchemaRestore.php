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

/** Whole schemas, or tables of one: loaded and rolled forward on a throw-away server, brought beside, checked, and perhaps put in place. */
final class SchemaRestore
{
    private readonly Run $run;

    private readonly RunAtServer $there;

    private readonly SchemaChecks $checks;

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
        $this->checks = new SchemaChecks($this->run, $account, $order, $target, $this->there);
    }

    /** @param  list<Reach>  $reaches */
    public function carryOut(array $reaches): void
    {
        $swaps = $this->there->swaps($this->target);
        $isPlanned = $swaps !== [] && array_filter($swaps, fn (Swap $swap): bool => $swap->state()['stage'] === 'none') === [];
        if ($isPlanned) {
            // Everything is beside, and was right: only the change of places is left.
            $this->account->wasDone(3, 4, 5, 6, 7);
            $expected = TableContents::ofSchemas($this->run->outcome['expected'] ?? []);
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
        $this->account->step(9, fn (): string => $this->checks->inPlace($expected));
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
     * @return array<string, array<string, TableContents>> schema at the target => what must be in it
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
     * @return array<string, array<string, TableContents>>
     *
     * @throws UnknownStatement
     */
    private function bringBeside(array $reaches, bool $isDirect): array
    {
        $bench = $this->account->workbench($this->points, $this->folder);
        try {
            $counted = $expected = $definitions = [];
            $this->account->step(3, function () use ($bench, $reaches, $isDirect, &$counted): string {
                return $this->load($bench, $reaches, $isDirect, $counted);
            });
            $this->account->step(4, function () use ($bench, $reaches, $isDirect, &$counted): string {
                return $this->roll($bench, $reaches, $isDirect, $counted);
            });
            $this->account->step(
                5,
                fn (): string => $isDirect ? 'nothing was rolled forward' : $this->checks->ofRolled($bench, $counted),
            );
            $this->account->step(6, function () use ($bench, $reaches, $isDirect, &$expected, &$definitions): string {
                $bytes = 0;
                foreach ($reaches as $reach) {
                    foreach ($reach->schemas as $schema) {
                        $bytes += $this->target->withLongRows(
                            function () use ($bench, $reach, $schema, $isDirect, &$expected, &$definitions): int {
                                return $this->copyOut($bench, $reach, $schema, $isDirect, $expected, $definitions);
                            },
                        );
                    }
                }

                return Words::size($bytes);
            });
            $kept = array_map(TableContents::kept(...), $expected);
            $this->account->told += ['expected' => $kept];
            $this->account->step(7, fn (): string => $this->checks->beside($expected));
            $this->account->keep(['expected' => $kept, 'definitions' => $definitions, 'keys' => $this->account->told['keys'] ?? []]);
        } finally {
            $bench->end();
        }

        return $expected;
    }

    /**
     * @param  list<Reach>  $reaches
     * @param  bool  $isDirect  whether only definitions are loaded here
     * @param  array<string, int>  $counted  "schema\0table" => rows, set by this
     */
    private function load(Workbench $bench, array $reaches, bool $isDirect, array &$counted): string
    {
        $bytes = 0;
        foreach ($reaches as $reach) {
            $bench->load($reach, $this->order->tables, ! $isDirect);
            $bytes += $reach->dump->bytes;
            if (! $isDirect) {
                $counted += $this->checks->ofDump($bench, $reach);
            }
        }
        $this->requireTables($bench, $reaches);
        $this->tellWhatDumpsLack($bench);
        $names = implode(', ', array_map(fn (Reach $reach): string => $reach->dump->name, $reaches));

        return "$names, ".Words::size($bytes).($isDirect ? ': definitions here, rows straight to the target' : '');
    }

    /**
     * @param  list<Reach>  $reaches
     * @param  array<string, int>  $counted  "schema\0table" => rows, kept up by the row events
     */
    private function roll(Workbench $bench, array $reaches, bool $isDirect, array &$counted): string
    {
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

    /**
     * @param  array<string, array<string, TableContents>>  $expected
     * @param  array<string, list<array<string, mixed>>>  $definitions
     */
    private function copyOut(Workbench $bench, Reach $reach, string $schema, bool $isDirect, array &$expected, array &$definitions): int
    {
        $final = $this->order->schemas[$schema];
        $isInPlace = $this->order->isInPlace();
        $into = $isInPlace ? Swap::loadedName($this->run, $final) : $final;
        $this->makeSchemas($bench, $schema, $into, $final);
        $account = WorkAccount::make($this->target, $this->accountName(), WorkAccount::FILL, [$into], ['BINLOG ADMIN', 'SET USER']);
        try {
            $account->link->withoutLog();
            $copy = new SchemaCopy($bench->link(), $schema, $account->link, $into, $this->order->tables, $isInPlace ? $into : $final);
            array_map($account->mayReference(...), $copy->keysInto());
            $this->refuseMissing($copy, $schema);
            $expected[$final] = $isDirect ? [] : $this->checks->contents($bench, $schema, $copy->tables);
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

    /** The one that is filled, and where it takes the place of none yet, that one. */
    private function makeSchemas(Workbench $bench, string $schema, string $into, string $final): void
    {
        $this->target->exec('SET foreign_key_checks = 0');
        $this->target->exec('DROP DATABASE IF EXISTS '.Identifier::quoted($into)); // of an earlier attempt
        $like = (string) $bench->link()->one(
            'SELECT CONCAT("CHARACTER SET ", default_character_set_name, " COLLATE ", default_collation_name) FROM '.
                'information_schema.schemata WHERE schema_name = ?',
            [$schema],
        );
        $this->target->createSchema($into, "$like COMMENT 'kaiseki run {$this->run->label()}'");
        if ($into !== $final && ! $this->target->hasSchema($final)) {
            $this->target->createSchema($final, $like);
        }
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
     * @param  array<string, TableContents>  $expected
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
}
