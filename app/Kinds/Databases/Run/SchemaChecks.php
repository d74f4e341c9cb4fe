<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Intake\DumpFacts;
use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Databases\Order\Reach;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\Tools;
use App\Models\Run;
use App\Words;
use PDOException;

/** Whether what a run loads, rolls forward and puts in place is what it should be; each comparison becomes a check of the run. */
final class SchemaChecks
{
    /** @var array<string, TableContents> "schema\0table" => what was read of it after the dump was loaded */
    private array $asLoaded = [];

    public function __construct(
        private readonly Run $run,
        private readonly RunAccount $account,
        private readonly DatabaseOrder $order,
        private readonly ServerLink $target,
        private readonly RunAtServer $there,
    ) {
    }

    /**
     * A dump as it was loaded, with what was counted when it was made.
     *
     * @return array<string, int> "schema\0table" => rows as loaded
     */
    public function ofDump(Workbench $bench, Reach $reach): array
    {
        $counts = $wrong = [];
        $compared = 0;
        $recorded = DumpFacts::ofSet($reach->dump)->counted;
        foreach ($reach->schemas as $schema) {
            foreach ($this->loaded($bench, $schema, isset($recorded[$schema])) as $table => $is) {
                $counts["$schema\0$table"] = $is->rows;
                $was = $recorded[$schema][$table] ?? null;
                if ($was === null) {
                    continue;
                }
                $this->asLoaded["$schema\0$table"] = $is;
                $compared++;
                $unlike = $is->unlike($was);
                if ($unlike !== null) {
                    $wrong[] = "$schema.$table: $unlike";
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

    /** @return array<string, TableContents> of the tables that were loaded; checksums take their time, and may not be wanted */
    private function loaded(Workbench $bench, string $schema, bool $withChecksums): array
    {
        $facts = new SchemaFacts($bench->link(), $schema);
        $tables = $facts->tables();
        if ($bench->loaded($schema) !== null) {
            $tables = array_values(array_intersect($tables, $bench->loaded($schema)));
        }

        return $withChecksums
            ? $facts->contents($tables)
            : array_map(fn (int $rows): TableContents => new TableContents($rows, null), $facts->rowCounts($tables));
    }

    /**
     * What is in tables after rolling forward: those to which nothing came were read after loading.
     *
     * @param  list<string>  $tables
     * @return array<string, TableContents>
     */
    public function contents(Workbench $bench, string $schema, array $tables): array
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

    /**
     * What was rolled forward, with what the dump and the row events say.
     *
     * @param  array<string, int>  $counted  "schema\0table" => rows
     */
    public function ofRolled(Workbench $bench, array $counted): string
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

    /** @param  array<string, array<string, TableContents>>  $expected */
    public function beside(array $expected): string
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

    /** @param  array<string, array<string, TableContents>>  $expected */
    public function inPlace(array $expected): string
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
            $counts = $facts->counts();
            if ($this->order->tables === null) {
                $this->checkObjects($facts, $counts);
            }
            $tables = $this->order->tables === null ? null : array_values(array_intersect($this->order->tables, $facts->tables()));
            $this->account->told['contents'][$schema] = TableContents::kept($contents === [] ? $facts->contents($tables) : $contents);
            $objects[] = self::inWords($counts);
        }

        return implode('; ', $objects);
    }

    /** @param  array<string, TableContents>  $contents */
    private function compareContents(SchemaFacts $facts, array $contents, string $check): int
    {
        $wrong = [];
        foreach ($facts->contents(array_map(strval(...), array_keys($contents))) as $table => $is) {
            $unlike = $is->unlike($contents[$table]);
            if ($unlike !== null) {
                $wrong[] = "$table: $unlike";
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

    /** @param  array<string, int>  $counts  what there is of each kind of object */
    private function checkObjects(SchemaFacts $facts, array $counts): void
    {
        $unmade = array_filter($this->account->remarks, fn (string $remark): bool => str_contains($remark, 'could not be made'));
        $invalid = [];
        foreach ($facts->views() as $view) {
            try {
                $this->target->rows('SELECT * FROM '.Workbench::name($facts->schema, $view).' LIMIT 0');
            } catch (PDOException $failure) {
                $invalid[] = "$view: ".mb_scrub($failure->getMessage());
            }
        }
        $wrong = [...array_values($unmade), ...$invalid];
        $this->account->check('views, triggers, routines, events and sequences', $wrong, self::inWords($counts));
        $this->account->told['objects'][$facts->schema] = $counts;
    }

    /** @param  array<string, int>  $counts */
    private static function inWords(array $counts): string
    {
        return implode(', ', array_map(fn (string $kind, int $count): string => "$count $kind", array_keys($counts), $counts));
    }
}
