<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Intake\DumpFacts;
use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Order\Reach;
use App\Kinds\Databases\Order\Stop;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\Tools;
use App\Words;
use Closure;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\Identifier;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Database\LogPosition;
use Kaiseki\Core\Database\LogReader;
use Kaiseki\Core\Database\ReplayFile;

/** A throw-away server on which dumps are loaded and logs rolled forward, under the names they had. */
final class Workbench
{
    public readonly ThrowAway $server;

    /** @var array<string, \Kaiseki\Core\Database\TableCount> "schema\0table" => rows that were rolled forward */
    public array $rolled = [];

    /** @var array<string, true> "schema\0table" whose rows cannot be counted from the logs */
    public array $uncounted = [];

    /** @var array<string, true> "schema\0table" to which anything came */
    private array $changed = [];

    public int $transactions = 0;

    /** Statements that ran again as the text that was logged: what they, their triggers and keys changed cannot be counted. */
    public int $texts = 0;

    /** @var list<string> */
    public array $remarks = [];

    /** @var array<string, list<string>> schema => the tables whose rows are there; not of those of which all are */
    private array $loaded = [];

    /** @var array<string, true> "schema\0table" with a foreign key into what is not there */
    private array $unchecked = [];

    public function __construct(
        private readonly DatabasePoints $points,
        private readonly string $folder,
        private readonly ?Closure $told = null,
    ) {
        $this->server = ThrowAway::start($folder);
    }

    /**
     * @param  Closure(string): void  $told
     * @return Closure(string, int): void for one that says what it does in words
     */
    public static function inWords(Closure $told): Closure
    {
        return fn (string $step, int $bytes) => $told(($step === 'load' ? 'loaded ' : 'rolled forward ').Words::size($bytes));
    }

    public function link(): ServerLink
    {
        return $this->server->link;
    }

    /**
     * @param  list<string>|null  $tables
     * @param  bool  $rows  false for empty tables
     *
     * @throws CannotRestore
     */
    public function load(Reach $reach, ?array $tables, bool $rows = true): void
    {
        $load = $this->dump($reach, $tables);
        $facts = DumpFacts::ofSet($reach->dump);
        $named = $load->hasSections() ? [] : array_map(strval(...), array_keys($facts->schemas));
        foreach (array_unique([...$reach->schemas, ...$named]) as $schema) {
            if ($schema !== '' && ! in_array($schema, ServerLink::OWN_SCHEMAS, true)) {
                $this->server->admit($schema);
            }
        }
        $into = $facts->namesSchema ? '' : $reach->schemas[0] ?? '';
        $told = $this->told === null ? null : fn (int $bytes) => ($this->told)('load', $bytes);
        $loader = $this->server->loader;
        try {
            if (! $load->hasSections() || ($rows && $tables === null && ! $load->canSkip())) {
                Tools::load($loader, $into, SchemaCopy::prepared(SchemaCopy::counted($load->everything(), $told)));

                return;
            }
            Tools::load($loader, $into, SchemaCopy::prepared($this->dump($reach, null)->structure()));
            if ($tables !== null) {
                $this->loaded[$reach->schemas[0] ?? ''] = $tables = $this->withParents($reach->schemas[0] ?? '', $tables);
            }
            if ($rows) {
                Tools::loadRows($loader, $into, SchemaCopy::prepared(SchemaCopy::counted($this->dump($reach, $tables)->rows(), $told)));
            }
            if ($tables === null) {
                // after the rows: they would work on them as these come in
                Tools::load($loader, $into, SchemaCopy::prepared($load->programs()));
            }
        } catch (UnreadableArchive $unreadable) {
            throw CannotRestore::because("The dump {$reach->dump->name} {$unreadable->getMessage()}.");
        }
    }

    /**
     * With the tables that they point at, and so on: what is deleted there may be deleted here by CASCADE, which no log shows.
     *
     * @param  list<string>  $tables
     * @return list<string>
     */
    private function withParents(string $schema, array $tables): array
    {
        $keys = (new SchemaFacts($this->link(), $schema))->foreignKeys();
        for ($before = 0; $before < count($tables);) {
            $before = count($tables);
            foreach ($keys as $key) {
                $leadsOut = in_array($key['table'], $tables, true) && ! in_array($key['to_table'], $tables, true);
                if ($leadsOut && $key['to_schema'] === $schema) {
                    $tables[] = $key['to_table'];
                }
            }
        }

        return array_values($tables);
    }

    /** @return list<string>|null the tables whose rows are there; null for all */
    public function loaded(string $schema): ?array
    {
        return $this->loaded[$schema] ?? null;
    }

    /**
     * Loads what foreign keys of the loaded tables point at in other schemas: what was deleted there may be deleted here by CASCADE.
     * Where no dump holds it, the keys are not looked at.
     *
     * @param  list<Reach>  $reaches  that are loaded
     * @return list<Reach> to be rolled forward as these are
     */
    public function loadParents(array $reaches, Stop $stop): array
    {
        $schemas = array_merge(...array_map(fn (Reach $reach): array => $reach->schemas, $reaches));
        $more = [];
        while (($missing = $this->parentsElsewhere($schemas)) !== []) {
            foreach ($missing as $schema => [$tables, $children]) {
                $schemas[] = (string) $schema;
                try {
                    $reach = $this->points->reach($stop, [(string) $schema])[0];
                    if (! array_key_exists((string) $schema, DumpFacts::ofSet($reach->dump)->schemas)) {
                        throw CannotRestore::because("The dump {$reach->dump->name} does not say of which schema it is.");
                    }
                    if (array_diff($tables, (new SchemaFacts($this->link(), (string) $schema))->tables()) !== []) {
                        $this->load($reach, $tables);
                    }
                    $more[] = $reach;
                } catch (CannotRestore $cannot) {
                    $this->unchecked += array_fill_keys($children, true);
                    $this->remarks[] =
                        'Foreign keys point at '.
                        implode(', ', array_map(fn (string $table): string => "$schema.$table", $tables)).
                        ', which cannot be brought to that point, so they were not looked at while rolling forward: '.
                        $cannot->getMessage();
                }
            }
        }

        return $more;
    }

    /**
     * @param  list<string>  $schemas  that are there
     * @return array<string, array{list<string>, list<string>}> schema => its tables that keys point at, and the "schema\0table" of those
     *     keys
     */
    private function parentsElsewhere(array $schemas): array
    {
        $missing = [];
        foreach ($schemas as $schema) {
            foreach ((new SchemaFacts($this->link(), $schema))->foreignKeys() as $key) {
                if (
                    $key['schema'] !== $schema ||
                    in_array($key['to_schema'], $schemas, true) ||
                    ! in_array($key['table'], $this->loaded[$schema] ?? [$key['table']], true)
                ) {
                    continue;
                }
                $of = $missing[$key['to_schema']] ?? [[], []];
                $missing[$key['to_schema']] = [
                    array_values(array_unique([...$of[0], $key['to_table']])),
                    [...$of[1], "$schema\0{$key['table']}"],
                ];
            }
        }

        return $missing;
    }

    /** @param  list<string>|null  $tables */
    public function dump(Reach $reach, ?array $tables): DumpLoad
    {
        try {
            return new DumpLoad($reach->dump, $this->points->open($reach->dump), $reach->schemas, $tables);
        } catch (UnreadableArchive $unreadable) {
            throw CannotRestore::because("The dump {$reach->dump->name} {$unreadable->getMessage()}.");
        }
    }

    /**
     * Rolls forward what was loaded, all of it together: what one schema holds may rest on another.
     *
     * @param  list<Reach>  $reaches
     * @param  list<string>  $skip
     * @param  LogPosition|null  $from  for all of them, instead of where their dumps were made
     */
    public function roll(array $reaches, array $skip, ?LogPosition $from = null, ?LogPosition $until = null): void
    {
        /** @var array<string, array{LogPosition, LogPosition}> $spans */
        $spans = [];
        foreach ($reaches as $reach) {
            [$first, $last] = [$from ?? $reach->from, $until ?? $reach->until];
            if ($first !== null && $last !== null && $last->isAfter($first)) {
                $spans += array_fill_keys($reach->schemas, [$first, $last]);
            }
        }
        if ($spans === []) {
            return;
        }
        $file = "{$this->folder}/replay";
        $out = fopen($file, 'wb') ?: throw CannotRestore::because("$file cannot be written.");
        $replay = new ReplayFile(
            $out,
            array_intersect_key($this->loaded, $spans) + array_fill_keys(array_keys($spans), null),
            $skip,
            $this->unchecked,
        );
        foreach ($this->points->transactions->chain->logs as $log) {
            $here = array_filter(array_map(fn (array $span): ?array => self::within($log, ...$span), $spans));
            if ($here === []) {
                continue;
            }
            try {
                $reader = new LogReader($this->points->open($this->points->transactions->mustBe($log->file))->open(), PHP_INT_MAX);
            } catch (UnreadableArchive $unreadable) {
                throw CannotRestore::because("{$log->file} {$unreadable->getMessage()}.");
            }
            $replay->add($reader, $here);
            if ($reader->problem !== null && $reader->soundUntil < max(array_column($here, 1))) {
                throw CannotRestore::because("{$log->file} {$reader->problem}: it was right when it was adopted.");
            }
        }
        fclose($out);
        foreach (array_keys($replay->schemasNamed) as $schema) {
            $this->server->admit((string) $schema);
        }
        if ($replay->transactions > 0) {
            Tools::replay($this->server->loader, $file, $this->told === null ? null : fn (int $bytes) => ($this->told)('roll', $bytes));
        }
        unlink($file);
        $this->rolled = $replay->counts;
        $this->changed += array_fill_keys(array_keys($replay->counts), true) + $replay->uncounted;
        $this->uncounted += $replay->uncounted;
        $this->transactions += $replay->transactions;
        $this->texts += $replay->texts;
        if ($replay->texts > 0) {
            $this->remarks[] =
                "{$replay->texts} statements stand in the logs as text, and ran again: what they took from UUID() and the ".
                'like may be other than it was (binlog_format is not ROW).';
        }
        if ($replay->leftOut !== []) {
            $this->remarks[] = sprintf(
                '%d statements that are about no table of it were left out, such as: %s',
                count($replay->leftOut),
                preg_replace('/\s+/', ' ', mb_strimwidth($replay->leftOut[0], 0, 80, '...')),
            );
        }
    }

    /** @return array{int, int}|null from where to where a span goes in a log */
    private static function within(LogFacts $log, LogPosition $from, LogPosition $until): ?array
    {
        if ($log->number() < $from->number() || $log->number() > $until->number() || $log->series() !== $from->series()) {
            return null;
        }

        return [$log->file === $from->file ? $from->offset : 4, $log->file === $until->file ? $until->offset : $log->wholeUntil];
    }

    /** Whether rows or definitions of a table may have been rolled forward. */
    public function hasChanged(string $schema, string $table): bool
    {
        return $this->texts > 0 || isset($this->changed["$schema\0$table"]);
    }

    public function end(): void
    {
        $this->server->stop();
    }

    public static function name(string $schema, string $table): string
    {
        return Identifier::quoted($schema).'.'.Identifier::quoted($table);
    }
}
