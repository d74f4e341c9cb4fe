<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/**
 * Rewrites definitions (views, triggers, routines, events, defaults of columns) for a schema under another name. The server
 * keeps qualified names inside them as they were, so a copy would go on reading and writing the original. Strings and
 * comments stay as they are; a qualifier counts only before something that the schema really holds.
 */
final readonly class Renaming
{
    private const TOKENS = '/\'(?:[^\'\\\\]|\\\\.|\'\')*+\'|"(?:[^"\\\\]|\\\\.|"")*+"|--[ '.
        '\t\n][^\n]*|#[^\n]*|\/\*(?![!M]).*?\*\/|`(?:[^`]|``)*+`|[\w$\x80-\xff]+|\s+|./s';

    /** @var array<string, true> lower case */
    private array $objects;

    /** @param  list<string>  $objects  tables, views, sequences, routines, events and triggers of the schema */
    public function __construct(private string $from, private string $to, array $objects)
    {
        $this->objects = array_fill_keys(array_map(mb_strtolower(...), $objects), true);
    }

    public function in(string $definition): string
    {
        if ($this->from === $this->to || preg_match_all(self::TOKENS, $definition, $matches) === false) {
            return $definition;
        }
        $tokens = $matches[0];
        $result = '';
        $before = '';
        foreach ($tokens as $i => $token) {
            $isName = $before !== '.' && self::name($token) === $this->from && $this->qualifies($tokens, $i + 1);
            $result .= $isName ? Identifier::quoted($this->to) : $token;
            if (trim($token) !== '') {
                $before = $token;
            }
        }

        return $result;
    }

    /** @param  list<string>  $tokens */
    private function qualifies(array $tokens, int $next): bool
    {
        $seen = [];
        for ($i = $next; isset($tokens[$i]) && count($seen) < 2; $i++) {
            if (trim($tokens[$i]) !== '') {
                $seen[] = $tokens[$i];
            }
        }
        $object = self::name($seen[1] ?? '');

        return ($seen[0] ?? '') === '.' && $object !== null && isset($this->objects[mb_strtolower($object)]);
    }

    private static function name(string $token): ?string
    {
        if (str_starts_with($token, '`') && strlen($token) > 1) {
            return str_replace('``', '`', substr($token, 1, -1));
        }

        return preg_match('/^[\w$\x80-\xff]+$/', $token) === 1 ? $token : null;
    }

    /**
     * With another account as the one in whose name it runs.
     *
     * @param  string|null  $definer  as it stands in a statement; null for whoever creates it
     */
    public static function definer(string $definition, ?string $definer): string
    {
        return preg_replace(
            '/\bDEFINER\s*=\s*(?:`(?:[^`]|``)*`|\'[^\']*\'|[\w%.-]+)(?:\s*@\s*(?:`(?:[^`]|``)*`|\'[^\']*\'|[\w%.-]+))?/i',
            'DEFINER='.($definer ?? 'CURRENT_USER'),
            $definition,
            1,
        ) ?? $definition;
    }
}
