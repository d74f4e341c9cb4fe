<?php

declare(strict_types=1);

namespace Kaiseki\Core\Catalog;

use Kaiseki\Core\UnableToWrite;

/**
 * The names of a workload's things in one file, a line each, that is gone through from end to end to find some: a million
 * of them take a few hundredths of a second, which no index of a database for "contains" does. A name whose lower-case form
 * is another stands behind that and a NUL; a newline in a name is written as two bytes, 1 and 3. See
 * docs/decisions/0011-names-in-a-file.md.
 */
final readonly class NameList
{
    private const CHUNK = 4 << 20;

    /** Held at once while the first ones in order are looked for. */
    private const HELD = 20_000;

    public function __construct(private string $path)
    {
    }

    public function exists(): bool
    {
        return is_file($this->path);
    }

    /** @param  iterable<string>  $names  bytes; one that is there already may come again */
    public function add(iterable $names): void
    {
        $file = @fopen($this->path, 'ab') ?: throw UnableToWrite::open($this->path, 'The list of names');
        $lines = '';
        foreach ($names as $name) {
            $folded = self::folded($name);
            $lines .= ($folded === $name ? '' : self::escaped($folded)."\0").self::escaped($name)."\n";
            if (strlen($lines) > self::CHUNK) {
                self::put($file, $lines);
                $lines = '';
            }
        }
        self::put($file, $lines);
        fclose($file);
    }

    /**
     * @param  string  $pattern  with * and ? the whole name must fit it; without them it may stand anywhere in it, in any case
     * @param  string|null  $after  only names that come after this one
     * @return list<string> the first names that fit, in the order of their bytes (but for newlines), each once
     */
    public function matching(string $pattern, int $most, ?string $after = null): array
    {
        $isGlob = strpbrk($pattern, '*?') !== false;
        $needle = self::escaped($isGlob ? $pattern : self::folded($pattern));
        $expression =
            '~^(?:[^\0\n]*\0)?('.strtr(preg_quote($needle, '~'), ['\*' => '[^\0\n]*', '\?' => '(?:\x01[\x02\x03]|[^\0\n\x01])']).')$~m';
        $found = [];
        foreach ($this->chunks() as $chunk) {
            if ($isGlob) {
                if (preg_match_all($expression, $chunk, $matches) > 0) {
                    foreach ($matches[1] as $name) {
                        $found[$name] = true;
                    }
                }
            } else {
                self::contains($chunk, $needle, $found);
            }
            if (count($found) > max(self::HELD, 2 * $most)) {
                $found = self::first($found, $most, $after);
            }
        }

        return array_map(self::unescaped(...), array_map(strval(...), array_keys(self::first($found, $most, $after))));
    }

    /** The form in which "contains, any case" looks. */
    public static function folded(string $name): string
    {
        return preg_match('/^[\x00-\x7f]*$/D', $name) === 1 ? strtolower($name) : mb_strtolower(mb_scrub($name, 'UTF-8'), 'UTF-8');
    }

    /**
     * @param  array<array-key, true>  $found  escaped names
     */
    private static function contains(string $chunk, string $needle, array &$found): void
    {
        if ($needle === '') {
            foreach (explode("\n", rtrim($chunk, "\n")) as $line) {
                $found[substr($line, (int) strrpos("\0$line", "\0"))] = true;
            }

            return;
        }
        for ($at = 0; ($at = strpos($chunk, $needle, $at)) !== false;) {
            $begin = ($before = strrpos($chunk, "\n", $at - strlen($chunk))) === false ? 0 : $before + 1;
            $end = strpos($chunk, "\n", $at) ?: strlen($chunk);
            $line = substr($chunk, $begin, $end - $begin);
            $nul = strpos($line, "\0");
            if ($nul === false || $at + strlen($needle) <= $begin + $nul) {
                $found[$nul === false ? $line : substr($line, $nul + 1)] = true;
            }
            $at = $end;
        }
    }

    /**
     * @param  array<array-key, true>  $found
     * @return array<array-key, true>
     */
    private static function first(array $found, int $most, ?string $after): array
    {
        ksort($found, SORT_STRING);
        if ($after !== null) {
            $after = self::escaped($after);
            $found = array_filter($found, fn (int|string $name): bool => strcmp((string) $name, $after) > 0, ARRAY_FILTER_USE_KEY);
        }

        return array_slice($found, 0, $most, true);
    }

    /** @return iterable<string> whole lines */
    private function chunks(): iterable
    {
        $file = @fopen($this->path, 'rb');
        $rest = '';
        while ($file !== false && ($bytes = fread($file, self::CHUNK)) !== false && $bytes !== '') {
            $end = strrpos($bytes, "\n");
            if ($end === false) {
                $rest .= $bytes;

                continue;
            }
            yield $rest.substr($bytes, 0, $end + 1);
            $rest = substr($bytes, $end + 1);
        }
    }

    private static function escaped(string $name): string
    {
        return strpbrk($name, "\x01\n") === false ? $name : strtr($name, ["\x01" => "\x01\x02", "\n" => "\x01\x03"]);
    }

    private static function unescaped(string $line): string
    {
        return str_contains($line, "\x01") ? strtr($line, ["\x01\x02" => "\x01", "\x01\x03" => "\n"]) : $line;
    }

    /** @param  resource  $file */
    private static function put($file, string $lines): void
    {
        if ($lines !== '' && fwrite($file, $lines) !== strlen($lines)) {
            throw UnableToWrite::full('', 'The list of names');
        }
    }
}
