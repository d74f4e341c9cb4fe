<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/** What a statement that was logged as text is about, as far as its first words tell. */
final readonly class StatementTables
{
    private const NAME = '(?:`(?:[^`]|``)+`|[\w$\x80-\xff]+)';

    /** With its schema, or without. */
    private const TABLE = self::NAME.'(?:\s*\.\s*'.self::NAME.')?';

    /** Tables that are kept of one statement. */
    private const MOST = 500;

    /** About accounts, plugins, replication or the server itself, and about no schema. */
    private const OF_SERVER =
        '/^(?:(?:CREATE|ALTER|DROP|RENAME)\s+(?:OR\s+REPLACE\s+)?(?:USER|ROLE|SERVER)\b|GRANT\b|REVOKE\b'.
        '|SET\s+(?:PASSWORD|DEFAULT\s+ROLE|ROLE|GLOBAL|@@GLOBAL)\b|FLUSH\b|RESET\b|PURGE\b|KILL\b'.
        '|SHUTDOWN\b|INSTALL\b|UNINSTALL\b|CHANGE\s+MASTER\b|(?:START|STOP)\s+(?:ALL\s+)?SLAVES?\b)/i';

    /**
     * @param  list<array{string, string}>  $tables  schema, table
     * @param  bool  $isOfServer  never to be run again elsewhere
     */
    private function __construct(
        public bool $isDefinition,
        public bool $changesRows,
        public string $schema,
        public array $tables,
        public bool $isOfServer = false,
    ) {
    }

    /** @param  string  $default  schema in which it was run */
    public static function of(string $sql, string $default): self
    {
        $sql = ltrim(preg_replace('~^(?:\s+|/\*(?!!).*?\*/|--[^\n]*\n|#[^\n]*\n)+~s', '', substr($sql, 0, 4096)) ?? $sql);
        if (preg_match(self::OF_SERVER, $sql) === 1) {
            return new self(true, false, '', [], true);
        }
        if (preg_match('/^(CREATE|ALTER|DROP|TRUNCATE|RENAME|SET|ANALYZE|OPTIMIZE|REPAIR)\b/i', $sql) !== 1) {
            return self::ofRows($sql, $default);
        }
        $tables = self::defined($sql, $default);
        $ofSchema = '/^(?:CREATE\s+(?:OR\s+REPLACE\s+)?|ALTER\s+|DROP\s+)(?:DATABASE|SCHEMA)\s+(?:IF\s+(?:NOT\s+)?EXISTS\s+)?('.
            self::NAME.')/i';
        $schema = preg_match($ofSchema, $sql, $m) === 1 ? self::name($m[1]) : $tables[0][0] ?? $default;

        return new self(true, false, $schema, $tables);
    }

    /** Of a statement that is no definition: it may change rows. */
    private static function ofRows(string $sql, string $default): self
    {
        $changes = preg_match('/^(INSERT|UPDATE|DELETE|REPLACE|LOAD)\b/i', $sql) === 1;
        $ofTable = '/^(?:INSERT|REPLACE|UPDATE|DELETE)\s+(?:(?:LOW_PRIORITY|DELAYED|HIGH_PRIORITY|IGNORE|QUICK)\s+)*'.
            '(?:INTO\s+|FROM\s+)?('.self::TABLE.')/i';
        $tables = $changes && preg_match($ofTable, $sql, $m) === 1 ? [self::qualified($m[1], $default)] : [];

        return new self(false, $changes, $tables[0][0] ?? $default, $tables);
    }

    /** @return list<array{string, string}> schema and table of all that a definition names first: A, B TO C, D TO E */
    private static function defined(string $sql, string $default): array
    {
        $ofTables = '/^(?:CREATE\s+(?:OR\s+REPLACE\s+)?|ALTER\s+(?:ONLINE\s+|IGNORE\s+)*|DROP\s+|RENAME\s+)'.
            '(?:TABLE|SEQUENCE|VIEW)S?\s+(?:IF\s+(?:NOT\s+)?EXISTS\s+)?(.+)$/is';
        if (preg_match($ofTables, $sql, $m) !== 1 && preg_match('/^TRUNCATE\s+(?:TABLE\s+)?(.+)$/is', $sql, $m) !== 1) {
            return [];
        }
        $tables = [];
        $list = $m[1];
        $one = '/^\s*('.self::TABLE.')\s*(?:(,)|\bTO\s+('.self::TABLE.')\s*(,)?)?/i';
        while (preg_match($one, $list, $n) === 1) {
            $tables[] = self::qualified($n[1], $default);
            if (($n[3] ?? '') !== '') {
                $tables[] = self::qualified($n[3], $default);
            }
            if ((($n[2] ?? '') === '' && ($n[4] ?? '') === '') || count($tables) > self::MOST) {
                break;
            }
            $list = substr($list, strlen($n[0]));
        }

        return $tables;
    }

    /** @return array{string, string} */
    private static function qualified(string $name, string $default): array
    {
        preg_match('/^('.self::NAME.')(?:\s*\.\s*('.self::NAME.'))?$/', $name, $m);

        return isset($m[2]) ? [self::name($m[1]), self::name($m[2])] : [$default, self::name($m[1] ?? $name)];
    }

    private static function name(string $name): string
    {
        return str_starts_with($name, '`') ? str_replace('``', '`', substr($name, 1, -1)) : $name;
    }
}
