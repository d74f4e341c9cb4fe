<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\Tools;
use Kaiseki\Core\Database\Identifier;
use Kaiseki\Core\Database\KnownStatements;
use Kaiseki\Core\Database\Renaming;

/**
 * Brings the tables and sequences of a schema from one server into a schema of another name, on the same or another server.
 *
 * @phpstan-import-type ForeignKey from SchemaFacts
 */
final class SchemaCopy
{
    /** @var list<string> */
    public readonly array $tables;

    /** @var list<ForeignKey> foreign keys into tables that do not come along */
    public array $keysLeftOut = [];

    private readonly SchemaFacts $facts;

    /** @var list<ForeignKey>|null */
    private ?array $keys = null;

    private readonly Renaming $renaming;

    /**
     * @param  list<string>|null  $only  tables; null for all
     * @param  string  $named  what references inside definitions are to say in place of the schema's name
     */
    public function __construct(
        private readonly ServerLink $from,
        private readonly string $schema,
        private readonly ServerLink $to,
        private readonly string $target,
        ?array $only,
        string $named,
    ) {
        $this->facts = new SchemaFacts($from, $schema);
        $this->tables = array_values($only === null ? $this->facts->tables() : array_intersect($this->facts->tables(), $only));
        $this->renaming = new Renaming($schema, $named, $this->facts->names());
    }

    /** @return list<string> schemas of others that its keys point at */
    public function keysInto(): array
    {
        $leads = fn (array $key): bool => in_array($key['table'], $this->tables, true) && $key['to_schema'] !== $this->schema;
        $keys = array_filter($this->keys(), $leads);

        return array_values(array_diff(array_unique(array_column($keys, 'to_schema')), ServerLink::OWN_SCHEMAS));
    }

    /** @return list<ForeignKey> */
    private function keys(): array
    {
        return $this->keys ??= $this->facts->foreignKeys();
    }

    public function renaming(): Renaming
    {
        return $this->renaming;
    }

    /** Empty tables, and the sequences with their next values. */
    public function structure(bool $withSequences): void
    {
        $this->to->exec('USE '.Identifier::quoted($this->target));
        $this->to->exec("SET foreign_key_checks = 0, check_constraint_checks = 0, sql_mode = 'NO_AUTO_VALUE_ON_ZERO'");
        foreach ($withSequences ? $this->facts->sequences() : [] as $sequence) {
            $name = Identifier::quoted($sequence);
            $this->to->exec(
                (string) $this->from->rows('SHOW CREATE TABLE '.Identifier::quoted($this->schema).".$name")[0]['Create Table'],
            );
            $next = $this->from->one('SELECT next_not_cached_value FROM '.Identifier::quoted($this->schema).".$name");
            $this->to->rows("SELECT SETVAL($name, ".(int) $next.', 0)');
        }
        foreach ($this->tables as $table) {
            $this->to->exec(
                $this->renaming->in(
                    (string) $this->from->rows(
                        'SHOW CREATE TABLE '.Identifier::quoted($this->schema).'.'.Identifier::quoted($table),
                    )[0]['Create Table'],
                ),
            );
        }
        foreach ($this->keys() as $key) {
            if (
                in_array($key['table'], $this->tables, true) &&
                $key['to_schema'] === $this->schema &&
                ! in_array($key['to_table'], $this->tables, true)
            ) {
                $this->to->exec(
                    'ALTER TABLE '.Identifier::quoted($key['table']).' DROP FOREIGN KEY '.Identifier::quoted($key['name']),
                );
                $this->keysLeftOut[] = $key;
            }
        }
    }

    /** The rows, from the server that has them. */
    public function rows(?callable $told = null): void
    {
        if ($this->tables === []) {
            return;
        }
        foreach ($this->tables as $table) {
            ExactFloats::widen($this->from, $this->schema, $table);
        }
        $bytes = Tools::dump($this->from, [
            '--no-create-info',
            '--skip-triggers',
            '--skip-comments',
            '--skip-add-locks',
            '--skip-disable-keys',
            '--single-transaction',
            '--quick',
            '--hex-blob',
            $this->schema,
            ...$this->tables,
        ]);
        Tools::loadRows($this->to, $this->target, self::prepared(self::counted($bytes, $told)), new KnownStatements($this->target));
    }

    /**
     * Statements that are to be taken as they stand, also where they do not say under which settings.
     *
     * @param  iterable<string>  $bytes
     * @return iterable<string>
     */
    public static function prepared(iterable $bytes): iterable
    {
        yield "SET time_zone='+00:00', foreign_key_checks=0, unique_checks=0, check_constraint_checks=0, ".
            "sql_mode='NO_AUTO_VALUE_ON_ZERO';\n";
        yield from $bytes;
    }

    /**
     * @param  iterable<string>  $bytes
     * @return iterable<string>
     */
    public static function counted(iterable $bytes, ?callable $told): iterable
    {
        $count = 0;
        foreach ($bytes as $piece) {
            yield $piece;
            $count += strlen($piece);
            if ($told !== null) {
                $told($count);
            }
        }
    }
}
