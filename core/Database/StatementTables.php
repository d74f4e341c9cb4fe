<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/** What a statement that was logged as text is about, as far as its first words tell. */
final readonly class StatementTables
{
    private const NAME = '(?:`(?:[^`]|``)+`|[\w$\x80-\xff]+)';

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
        if (preg_match('/^(CREATE|ALTER|DROP|TRUNCATE|RENAME|SET|ANALYZE|OPTIMIZE|REPAIR)\b/i', $sql, $word) !== 1) {
            $changes = preg_match('/^(INSERT|UPDATE|DELETE|REPLACE|LOAD)\b/i', $sql) === 1;
            $tables =
                $changes &&
                preg_match(
                    '/^(?:INSERT|REPLACE|UPDATE|DELETE)\s+(?:(?:LOW_PRIORITY|DELAYED|HIGH_PRIORITY|IGNORE|QUICK)\s+)*(?:INTO\s+|FROM\s+)?('.
                        self::NAME.
                        '(?:\s*\.\s*'.
                        self::NAME.
                        ')?)/i',
                    $sql,
                    $m,
                ) === 1
                    ? [self::qualified($m[1], $default)]
                    : [];

            return new self(false, $changes, $tables[0][0] ?? $default, $tables);
        }
        $tables = [];
        if (
            preg_match(
                '/^(?:CREATE\s+(?:OR\s+REPLACE\s+)?|ALTER\s+(?:ONLINE\s+|IGNORE\s+)*|DROP\s+|RENAME\s+)'.
                    '(?:TABLE|SEQUENCE|VIEW)S?\s+(?:IF\s+(?:NOT\s+)?EXISTS\s+)?(.+)$/is',
                $sql,
                $m,
            ) === 1 ||
            preg_match('/^TRUNCATE\s+(?:TABLE\s+)?(.+)$/is', $sql, $m) === 1
        ) {
            $list = $m[1];
            while (
                preg_match(
                    '/^\s*('.
                        self::NAME.
                        '(?:\s*\.\s*'.
                        self::NAME.
                        ')?)\s*(?:(,)|\bTO\s+('.
                        self::NAME.
                        '(?:\s*\.\s*'.
                        self::NAME.
                        ')?)\s*(,)?)?/i',
                    $list,
                    $n,
                ) === 1
            ) {
                $tables[] = self::qualified($n[1], $default);
                if (($n[3] ?? '') !== '') {
                    $tables[] = self::qualified($n[3], $default);
                }
                if ((($n[2] ?? '') === '' && ($n[4] ?? '') === '') || count($tables) > 500) {
                    break;
                }
                $list = substr($list, strlen($n[0]));
            }
        }
        $schema = $tables[0][0] ?? $default;
        if (
            preg_match(
                '/^(?:CREATE\s+(?:OR\s+REPLACE\s+)?|ALTER\s+|DROP\s+)(?:DATABASE|SCHEMA)\s+(?:IF\s+(?:NOT\s+)?EXISTS\s+)?('.
                    self::NAME.
                    ')/i',
                $sql,
                $m,
            ) === 1
        ) {
            $schema = self::name($m[1]);
        }

        return new self(true, false, $schema, $tables);
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
