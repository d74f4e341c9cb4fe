<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Server\ServerLink;
use Kaiseki\Core\Database\Identifier;
use Kaiseki\Core\Database\Renaming;
use PDOException;

/**
 * The views, triggers, routines and events of a schema as statements, with the modes they were made under. Kept in a file
 * they are the set-aside of what cannot be renamed (MariaDB renames neither views nor tables with triggers into another
 * schema: errors 1450 and 1435).
 */
final class Definitions
{
    /** @var list<string> what was done otherwise than it was, or could not be done */
    public array $remarks = [];

    /**
     * @param  list<array{kind: string, name: string, of: string, sql: string, mode: string, charset: string, collation: string,
     *     zone?: string}>  $all
     */
    public function __construct(public readonly array $all)
    {
    }

    /** @param  list<string>|null  $triggersOf  only triggers of these tables, and nothing else */
    public static function of(ServerLink $link, string $schema, ?array $triggersOf = null): self
    {
        $facts = new SchemaFacts($link, $schema);
        $all = [];
        $show = function (string $kind, string $name, string $column, string $of = '') use ($link, $schema, &$all): void {
            try {
                $row = $link->rows("SHOW CREATE $kind ".Identifier::quoted($schema).'.'.Identifier::quoted($name))[0];
            } catch (PDOException $invalid) {
                throw CannotRestore::because("The $kind $schema.$name cannot be read: ".mb_scrub($invalid->getMessage()));
            }
            $all[] =
                [
                    'kind' => $kind,
                    'name' => $name,
                    'of' => $of,
                    'sql' => $row[$column] ?? throw CannotRestore::because("The account may not see how the $kind $schema.$name is ".
                        'defined.'),
                    'mode' => (string) ($row['sql_mode'] ?? ''),
                    'charset' => (string) ($row['character_set_client'] ?? 'utf8mb4'),
                    'collation' => (string) ($row['collation_connection'] ?? 'utf8mb4_general_ci'),
                ] + ($kind === 'EVENT' ? ['zone' => (string) ($row['time_zone'] ?? 'SYSTEM')] : []);
        };
        if ($triggersOf === null) {
            foreach ($facts->routines() as $routine) {
                $show(
                    $routine['type'],
                    $routine['name'],
                    match ($routine['type']) {
                        'FUNCTION' => 'Create Function',
                        'PROCEDURE' => 'Create Procedure',
                        'PACKAGE' => 'Create Package',
                        default => 'Create Package Body',
                    },
                );
            }
            foreach ($facts->views() as $view) {
                $show('VIEW', $view, 'Create View');
            }
        }
        foreach ($facts->triggers() as $trigger => $table) {
            if ($triggersOf === null || in_array($table, $triggersOf, true)) {
                $show('TRIGGER', (string) $trigger, 'SQL Original Statement', $table);
            }
        }
        foreach ($triggersOf === null ? $facts->events() : [] as $event) {
            $show('EVENT', $event, 'Create Event');
        }

        return new self($all);
    }

    /**
     * Makes them in a schema.
     *
     * @param  Renaming|null  $renaming  where the schema has another name than it had
     * @param  bool  $asleep  events are made but do not run
     * @param  ServerLink|null  $trusted  by which functions and triggers are made, after what they are was read: a server with a binary
     *                                    log takes them from nobody without SUPER (error 1419)
     */
    public function make(
        ServerLink $link,
        string $schema,
        ?Renaming $renaming = null,
        bool $asleep = false,
        ?ServerLink $trusted = null,
    ): void {
        $trusted = $link->keepsLog ? $trusted : null;
        $left = $this->all;
        for ($round = 0; $left !== [] && $round < 12; $round++) {
            $failed = [];
            foreach ($left as $one) {
                try {
                    $this->one($link, $schema, $one, $renaming, $asleep, $trusted);
                } catch (PDOException $failure) {
                    $failed[] = $one + ['because' => mb_scrub($failure->getMessage())];
                }
            }
            [$before, $left] = [count($left), $failed]; // one view may rest on another
            if (count($failed) === $before) {
                break;
            }
        }
        foreach (array_filter([$link, $trusted]) as $used) {
            $used->exec(
                "SET sql_mode = 'NO_AUTO_VALUE_ON_ZERO', character_set_client = utf8mb4, ".'collation_connection = utf8mb4_general_ci',
            );
            $used->exec("SET time_zone = '+00:00'");
        }
        foreach ($left as $one) {
            $this->remarks[] = strtolower($one['kind'])." {$one['name']} could not be made: ".($one['because'] ?? '');
        }
        $this->remarks = array_values(array_unique($this->remarks));
    }

    /** @param  array<string, mixed>  $one */
    private function one(ServerLink $link, string $schema, array $one, ?Renaming $renaming, bool $asleep, ?ServerLink $trusted): void
    {
        $sql = (string) $one['sql'];
        if ($renaming !== null) {
            $sql = $renaming->in($sql);
        }
        if ($asleep && $one['kind'] === 'EVENT') {
            $sql = preg_replace('/^(CREATE\b.*?\bON COMPLETION (?:NOT )?PRESERVE) ENABLE\b/s', '$1 DISABLE', $sql, 1) ?? $sql;
            $this->remarks[] = 'Its events are there, but do not run.';
        }
        $link = $trusted !== null && self::isPlain($one['kind'], $sql, $schema) ? $trusted : $link;
        $link->exec('USE '.Identifier::quoted($schema));
        $link->exec(
            'SET sql_mode = '.
                $link->text((string) $one['mode']).
                ', character_set_client = '.
                self::word((string) $one['charset']).
                ', collation_connection = '.
                self::word((string) $one['collation']).
                (isset($one['zone']) ? ', time_zone = '.$link->text((string) $one['zone']) : ''),
        );
        // The text of the statement is what it was; the connection sends UTF-8.
        $link->exec('SET character_set_client = utf8mb4');
        $link->exec($sql);
    }

    /** Whether it is a stored function, or a trigger on a table of the schema, and no other statement. */
    private static function isPlain(string $kind, string $sql, string $schema): bool
    {
        $name = '(?:`(?:[^`]|``)+`|[\w$]+)';
        $definer = 'DEFINER\s*=\s*`(?:[^`]|``)*`@`(?:[^`]|``)*`';
        if ($kind === 'FUNCTION') {
            return preg_match("/\\ACREATE $definer (?:AGGREGATE )?FUNCTION $name\\(/i", $sql) === 1;
        }
        $plain = preg_match('/^\w+$/D', $schema) === 1 ? $schema : '(?!)';
        $own = '(?:(?:'.preg_quote(Identifier::quoted($schema), '/')."|$plain)\\s*\\.\\s*)?";
        $when = '(?:BEFORE|AFTER)\s+(?:INSERT|UPDATE|DELETE)';

        return $kind === 'TRIGGER' &&
            preg_match("/\\ACREATE $definer\\s+TRIGGER\\s+$own$name\\s+$when\\s+ON\\s+$own$name\\s+FOR\\s+EACH\\s+ROW\\b/i", $sql) === 1;
    }

    private static function word(string $name): string
    {
        return preg_match('/^\w+$/D', $name) === 1 ? $name : 'utf8mb4';
    }

    /** Takes them away from a schema. */
    public function drop(ServerLink $link, string $schema): void
    {
        foreach (array_reverse($this->all) as $one) {
            $link->exec("DROP {$one['kind']} IF EXISTS ".Identifier::quoted($schema).'.'.Identifier::quoted($one['name']));
        }
    }
}
