<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\WorkAccount;
use App\Models\Run;
use Kaiseki\Core\Database\Identifier;
use PDOException;

/**
 * Puts tables that were loaded beside into the place of the live ones, and back. All tables change places in one RENAME,
 * which happens wholly or not at all; what cannot be renamed (views, triggers, routines, events) is taken down before and
 * made anew after. What was there stays in a schema of its own, its definitions in a file.
 */
final class Swap
{
    /** @var list<string> */
    public array $remarks = [];

    /** @param  list<string>|null  $tables  null for the whole schema */
    public function __construct(
        private readonly ServerLink $link,
        public readonly string $schema,
        public readonly string $loaded,
        public readonly string $aside,
        private readonly ?array $tables,
        private readonly string $file,
    ) {
    }

    public static function loadedName(Run $run, string $schema): string
    {
        return mb_strcut("kaiseki_new_{$run->label()}_$schema", 0, 64);
    }

    public static function asideName(Run $run, string $schema): string
    {
        return mb_strcut("kaiseki_aside_{$run->label()}_$schema", 0, 64);
    }

    /**
     * @return array{stage: string, live: list<string>, loaded: list<string>, definitions: list<array<string, mixed>>,
     *     keys: list<array<string, mixed>>, made: list<array<string, mixed>>}
     */
    public function state(): array
    {
        $state = json_decode((string) @file_get_contents($this->file), true);

        // A file that an earlier run of the same number left is not this one's.
        return (is_array($state) && ($state['aside'] ?? '') === $this->aside ? $state : []) + [
            'stage' => 'none',
            'live' => [],
            'loaded' => [],
            'definitions' => [],
            'keys' => [],
            'made' => [],
        ];
    }

    /** @param  array<string, mixed>  $state */
    private function keep(array $state): void
    {
        file_put_contents(
            "{$this->file}.new",
            json_encode(['aside' => $this->aside] + $state, JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE),
        );
        rename("{$this->file}.new", $this->file);
    }

    /**
     * @param  Definitions  $wanted  what is to stand in the schema afterwards
     * @param  list<array<string, mixed>>  $own  foreign keys of the tables that come, into tables that stay
     */
    public function swap(Definitions $wanted, array $own = []): void
    {
        $state = $this->state();
        if ($state['stage'] === 'none') {
            $live = new SchemaFacts($this->link, $this->schema);
            $tables = [...$live->tables(), ...$this->tables === null ? $live->sequences() : []];
            $loaded = new SchemaFacts($this->link, $this->loaded);
            $state =
                [
                    'stage' => 'planned',
                    'live' => $this->tables === null ? $tables : array_values(array_intersect($tables, $this->tables)),
                    'loaded' => [...$loaded->tables(), ...$loaded->sequences()],
                    'definitions' => Definitions::of($this->link, $this->schema, $this->tables)->all,
                    'keys' => [...$this->keysFromOutside($live), ...$own],
                    'made' => $wanted->all,
                ] + $state;
            $this->keep($state);
            if (! $this->link->hasSchema($this->aside)) {
                $this->link->createSchema($this->aside);
            }
        }
        if ($state['stage'] === 'planned') {
            (new Definitions($state['definitions']))->drop($this->link, $this->schema);
            // Whether an earlier attempt came past this the tables themselves tell.
            $there = new SchemaFacts($this->link, $this->loaded);
            if (array_diff($state['loaded'], [...$there->tables(), ...$there->sequences()]) === []) {
                try {
                    $this->rename([
                        ...array_map(fn (string $table): array => [$this->schema, $this->aside, $table], $state['live']),
                        ...array_map(fn (string $table): array => [$this->loaded, $this->schema, $table], $state['loaded']),
                    ]);
                } catch (CannotRestore $cannot) {
                    (new Definitions($state['definitions']))->make($this->link, $this->schema);
                    throw $cannot;
                }
            }
            $state = ['stage' => 'renamed'] + $state;
            $this->keep($state);
        }
        if ($state['stage'] === 'renamed') {
            $this->retarget($state['keys']);
            if ($this->tables === null) {
                $this->makeWhatCame(new Definitions($state['made']));
            } else {
                (new Definitions($state['definitions']))->make($this->link, $this->schema);
            }
            $this->link->exec('DROP DATABASE IF EXISTS '.Identifier::quoted($this->loaded));
            $this->keep(['stage' => 'done'] + $state);
        }
    }

    /** What came out of an archive is made by an account that has nothing but the schema. */
    private function makeWhatCame(Definitions $made): void
    {
        $account = WorkAccount::make($this->link, $this->aside, WorkAccount::FILL, [$this->schema], ['SET USER', 'BINLOG ADMIN']);
        try {
            $account->link->withoutLog();
            $made->make($account->link, $this->schema, trusted: $this->link);
        } finally {
            $account->end();
        }
        $this->remarks = [...$this->remarks, ...$made->remarks];
    }

    /** Drops what was made for it, where nothing has changed places yet. */
    public function forget(): void
    {
        if (! in_array($this->state()['stage'], ['none', 'planned'], true)) {
            return;
        }
        $this->link->exec('SET foreign_key_checks = 0');
        $this->link->exec('DROP DATABASE IF EXISTS '.Identifier::quoted($this->loaded));
        if ((new SchemaFacts($this->link, $this->aside))->names() === []) {
            $this->link->exec('DROP DATABASE IF EXISTS '.Identifier::quoted($this->aside));
        }
        @unlink($this->file);
    }

    /** Returns what the swap replaced; what had taken its place is dropped. */
    public function back(): int
    {
        $state = $this->state();
        if (! in_array($state['stage'], ['renamed', 'done', 'returning'], true)) {
            return 0;
        }
        $now = Definitions::of($this->link, $this->schema, $this->tables);
        $now->drop($this->link, $this->schema);
        $aside = new SchemaFacts($this->link, $this->aside);
        $there = [...$aside->tables(), ...$aside->sequences()];
        if ($state['stage'] !== 'returning') {
            $missing = array_diff($state['live'], $there);
            if ($missing !== []) {
                throw CannotRestore::because("The set-aside {$this->aside} lacks ".implode(', ', $missing).': it cannot be put back.');
            }
            $this->keep(['stage' => 'returning'] + $state);
        }
        if (! $this->link->hasSchema($this->loaded)) {
            $this->link->createSchema($this->loaded);
        }
        if (array_diff($state['live'], $there) === []) {
            $live = new SchemaFacts($this->link, $this->schema);
            $present = array_intersect([...$live->tables(), ...$live->sequences()], [...$state['loaded'], ...$state['live']]);
            $this->rename([
                ...array_map(fn (string $table): array => [$this->schema, $this->loaded, $table], array_values($present)),
                ...array_map(fn (string $table): array => [$this->aside, $this->schema, $table], $state['live']),
            ]);
        }
        $this->retarget($state['keys']);
        $definitions = new Definitions($state['definitions']);
        $definitions->make($this->link, $this->schema);
        $this->remarks = $definitions->remarks;
        $this->link->exec('SET foreign_key_checks = 0');
        $this->link->exec('DROP DATABASE IF EXISTS '.Identifier::quoted($this->loaded));
        $this->link->exec('DROP DATABASE IF EXISTS '.Identifier::quoted($this->aside));
        $this->keep(['stage' => 'returned'] + $state);

        return count($state['live']);
    }

    /** @param  list<array{string, string, string}>  $moves  from schema, to schema, table */
    private function rename(array $moves): void
    {
        if ($moves === []) {
            return;
        }
        $this->link->exec('SET foreign_key_checks = 0');
        try {
            $this->link->exec(
                'RENAME TABLE '.
                    implode(
                        ', ',
                        array_map(
                            fn (array $move): string => Workbench::name($move[0], $move[2]).' TO '.Workbench::name($move[1], $move[2]),
                            $moves,
                        ),
                    ),
            );
        } catch (PDOException $failure) {
            throw CannotRestore::because('The tables could not change places, so none did: '.mb_scrub($failure->getMessage()));
        }
    }

    /**
     * Keys of tables that stay, into tables that are replaced: they follow the old ones when those are renamed.
     *
     * @return list<array<string, mixed>>
     */
    private function keysFromOutside(SchemaFacts $live): array
    {
        return array_values(
            array_filter(
                $live->foreignKeys(),
                fn (array $key): bool => $key['to_schema'] === $this->schema &&
                    ($this->tables === null
                        ? $key['schema'] !== $this->schema
                        : in_array($key['to_table'], $this->tables, true) &&
                            ! ($key['schema'] === $this->schema && in_array($key['table'], $this->tables, true))),
            ),
        );
    }

    /** @param  list<array<string, mixed>>  $keys */
    private function retarget(array $keys): void
    {
        $this->link->exec('SET foreign_key_checks = 0');
        foreach ($keys as $key) {
            $table = Workbench::name($key['schema'], $key['table']);
            $names = fn (array $columns): string => implode(', ', array_map(Identifier::quoted(...), $columns));
            try {
                $this->link->exec("ALTER TABLE $table DROP FOREIGN KEY IF EXISTS ".Identifier::quoted($key['name']));
                $this->link->exec(
                    "ALTER TABLE $table ADD CONSTRAINT ".
                        Identifier::quoted($key['name']).
                        " FOREIGN KEY ({$names($key['columns'])}) REFERENCES ".
                        Workbench::name($key['to_schema'], $key['to_table']).
                        " ({$names($key['to_columns'])}) {$key['rule']}",
                );
            } catch (PDOException $failure) {
                $this->remarks[] =
                    "The foreign key {$key['table']}.{$key['name']} could not be pointed at the table again: ".
                    mb_scrub($failure->getMessage());
            }
        }
        $this->link->exec('SET foreign_key_checks = 1');
    }
}
