<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/**
 * What mariadb-dump and its relatives write around rows, read word by word: rows of literal values into one table, the session's settings
 * that belong to them, locks, keys switched off and on. A dump is a program, and may go on with anything else: that is refused here
 * before a server sees it. The forms are those of mariadb-dump 10.11 with each of its options (tried; see the tests).
 */
final readonly class KnownStatements
{
    private const NAME = '`(?:[^`]|``)++`';

    /** Comments, and the word by which mariadb-dump forbids a client its own commands. */
    private const LEAD = '(?:--(?:[ \t][^\n]*+)?+\n|\s++|\/\*M!999999\\\\- enable the sandbox mode \*\/ ?)*+';

    /** Outside of its texts a row holds literals and nothing that works: no operator, function, comment or subquery. */
    private const LITERALS = "/(?:[1-9(),.\\s]++|'(?:[^'\\\\]++|\\\\.|'')*+'|0++(?!x)|NULL|0x[0-9A-Fa-f]++|[-+](?=[0-9.])"
        ."|(?<=[0-9.])[eE][-+]?+[0-9]|(?:_binary +|_utf8mb4 +|[xXbB])(?=')|TRUE|FALSE)*+/As";

    /** Bytes that are read at a time: a search ends after a million literals (pcre.backtrack_limit). */
    private const AT_ONCE = 1 << 19;

    private const CHARSETS = 'character_set_client|character_set_results|collation_connection';

    private const SWITCHES = 'UNIQUE_CHECKS|FOREIGN_KEY_CHECKS|CHECK_CONSTRAINT_CHECKS|SQL_NOTES|NOTE_VERBOSITY|AUTOCOMMIT'
        .'|SYSTEM_VERSIONING_INSERT_HISTORY';

    /**
     * Modes and character sets under which a quote or a backslash means another thing are not among them: they would make a program of
     * a row.
     */
    private const SETTINGS = [
        'NAMES (?:utf8|utf8mb3|utf8mb4|latin1|binary)',
        '(?:@@)?(?:'.self::CHARSETS.') *= *(?:utf8\w*|latin1\w*|binary|NULL|@(?:OLD|saved)_\w+)',
        "(?:@@)?TIME_ZONE *= *(?:'[-+]\d\d:\d\d'|@OLD_TIME_ZONE)",
        "(?:SESSION )?(?:@@)?SQL_MODE *= *(?:'(?:NO_AUTO_VALUE_ON_ZERO)?'|@(?:OLD|saved)_sql_mode)",
        '(?:SESSION )?(?:@@)?(?:SESSION\.)?(?:'.self::SWITCHES.') *= *(?:[01]|@OLD_\w+)',
        '@(?:OLD|saved)_\w+ *= *@@(?:SESSION\.)?(?:'.self::CHARSETS.'|time_zone|sql_mode|'.self::SWITCHES.')',
    ];

    private string $head;

    private string $settings;

    /** Lines that are about the server's own replication: left out, since rows do not need them. */
    private string $replication;

    /** @param  string  $schema  the one that USE may name */
    public function __construct(string $schema)
    {
        $names = '(?: ?\((?:'.self::NAME.'(?:, ?)?+)++\))?+';
        $this->head = '/'.self::LEAD.'(?:INSERT|REPLACE)(?: +DELAYED)?+(?: +IGNORE)?+ +INTO +'.self::NAME."$names +VALUES(?=\\s*\\()/A";
        $one = '(?:'.implode('|', self::SETTINGS).')';
        $names = self::NAME.' WRITE(?:, ?'.self::NAME.' WRITE)*';
        $use = preg_quote(Identifier::quoted($schema), '/');
        $bare = "(?:SET $one(?: *, *$one)*|(?:UN)?LOCK TABLES(?: $names)?|ALTER TABLE ".self::NAME." (?:EN|DIS)ABLE KEYS|COMMIT|USE $use)";
        $this->settings = '/\A'.self::LEAD."(?:\\/\\*M?![0-9]{5,6} $bare *\\*\\/|$bare)? ?;?".self::LEAD.'\z/i';
        $this->replication = '/\A'.self::LEAD.'(?:CHANGE MASTER (?:\'\' )?TO [\w=\', ]*(?:\'[^\'\\\\]*\'[\w=\', ]*)*'
            .'|SET GLOBAL gtid_slave_pos *= *\'[0-9, \n-]*\');\n?\z/i';
    }

    /**
     * Whether a statement may be passed on; false if it is to be left out.
     *
     * @param  string  $statement  whole, with what stands before it
     *
     * @throws UnknownStatement
     */
    public function admits(string $statement): bool
    {
        if ($this->isRows($statement) || preg_match($this->settings, $statement) === 1) {
            return true;
        }

        return preg_match($this->replication, $statement) === 1 ? false : throw UnknownStatement::found($statement);
    }

    private function isRows(string $statement): bool
    {
        if (preg_match($this->head, $statement, $match) !== 1) {
            return false;
        }
        $at = strlen($match[0]);
        do {
            $piece = substr($statement, $at, self::AT_ONCE);
            preg_match(self::LITERALS, $piece, $match);
            $isLast = $at + strlen($piece) >= strlen($statement);
            $read = $isLast ? strlen($match[0]) : self::untilDigits($match[0]);
            $read = $read > 0 || $isLast ? $read : self::long($statement, $at);
            $at += $read;
        } while (! $isLast && $read > 0);

        return in_array(substr($statement, $at), [';', ";\n"], true);
    }

    /** Bytes before what may be the first digits of a number in hexadecimal that goes on. */
    private static function untilDigits(string $piece): int
    {
        $read = strlen(rtrim($piece, '0..9A..Fa..f'));

        return substr($piece, max(0, $read - 2), 2) === '0x' ? $read - 2 : strlen(rtrim($piece, '0'));
    }

    /** Bytes of a text, or a number in hexadecimal, that is longer than what is read at a time; 0 if none begins there. */
    private static function long(string $statement, int $from): int
    {
        if (substr($statement, $from, 2) === '0x') {
            return 2 + strspn($statement, '0123456789abcdefABCDEF', $from + 2);
        }
        if (($statement[$from] ?? '') !== "'") {
            return 0;
        }
        for ($at = $from + 1; ; $at += strlen($match[0])) {
            if (preg_match("/(?:[^'\\\\]++|\\\\.|'')++/As", substr($statement, $at, self::AT_ONCE), $match) !== 1) {
                return substr($statement, $at, 1) === "'" ? $at + 1 - $from : 0;
            }
        }
    }
}
