<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Server\ServerLink;
use Kaiseki\Core\Database\Identifier;
use PDO;

/**
 * FLOAT columns, of which the server prints six digits, so that neither mariadb-dump nor a SELECT gives the value that is
 * stored; as DOUBLE it is printed whole.
 */
final class ExactFloats
{
    private const ROWS_AT_ONCE = 500;

    /** Makes them DOUBLE on a server of which nobody needs the types any more. */
    public static function widen(ServerLink $link, string $schema, string $table): void
    {
        $changes = [];
        foreach (
            $link->rows(
                'SELECT column_name AS name, is_nullable AS nullable FROM information_schema.columns WHERE table_schema = ? AND '.
                    'table_name = ? AND data_type = "float" AND is_generated = "NEVER"',
                [$schema, $table],
            ) as $column
        ) {
            $changes[] =
                'MODIFY '.
                Identifier::quoted((string) $column['name']).
                ' DOUBLE '.
                ($column['nullable'] === 'YES' ? 'NULL' : 'NOT NULL');
        }
        if ($changes !== []) {
            $link->exec('ALTER TABLE '.Workbench::name($schema, $table).' '.implode(', ', $changes));
        }
    }

    public static function has(ServerLink $link, string $schema, string $table): bool
    {
        return $link->one(
            'SELECT 1 FROM information_schema.columns WHERE table_schema = ? AND table_name = ? AND data_type = "float" LIMIT 1',
            [$schema, $table],
        ) !== null;
    }

    /**
     * The rows of a table as INSERTs with every digit.
     *
     * @param  string  $where  '' for all
     * @return iterable<string>
     */
    public static function rows(ServerLink $link, string $schema, string $table, string $where): iterable
    {
        $columns = $link->rows(
            'SELECT column_name AS name, data_type AS type FROM information_schema.columns WHERE table_schema = ? AND table_name = ? AND '.
                'is_generated = "NEVER" ORDER BY ordinal_position',
            [$schema, $table],
        );
        $isBinary = fn (string $type): bool => preg_match('/blob|binary|bit|point|polygon|linestring|geometry/', $type) === 1;
        $select = implode(
            ', ',
            array_map(function (array $column) use ($isBinary): string {
                $name = Identifier::quoted((string) $column['name']);

                return $column['type'] === 'float' ? "CAST($name AS DOUBLE)" : ($isBinary((string) $column['type']) ? "HEX($name)" : $name);
            }, $columns),
        );
        $pdo = $link->pdo();
        $pdo->setAttribute(PDO::MYSQL_ATTR_USE_BUFFERED_QUERY, false);
        $statement = $pdo->query("SELECT $select FROM ".Workbench::name($schema, $table).($where === '' ? '' : " WHERE $where"));
        $into =
            'INSERT INTO '.
            Identifier::quoted($table).
            ' ('.
            implode(', ', array_map(fn (array $column): string => Identifier::quoted((string) $column['name']), $columns)).
            ") VALUES\n";
        $values = [];
        while (($row = $statement->fetch(PDO::FETCH_NUM)) !== false) {
            $values[] =
                '('.
                implode(
                    ',',
                    array_map(
                        fn (?string $value, array $column): string => $value === null
                            ? 'NULL'
                            : ($isBinary((string) $column['type'])
                                ? "x'".(strlen($value) % 2 === 1 ? '0' : '')."$value'"
                                : ($column['type'] === 'float'
                                    ? $value
                                    : $link->text($value))),
                        $row,
                        $columns,
                    ),
                ).
                ')';
            if (count($values) >= self::ROWS_AT_ONCE) {
                yield $into.implode(",\n", $values).";\n";
                $values = [];
            }
        }
        $statement->closeCursor();
        $pdo->setAttribute(PDO::MYSQL_ATTR_USE_BUFFERED_QUERY, true);
        if ($values !== []) {
            yield $into.implode(",\n", $values).";\n";
        }
    }
}
