<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive\Internal;

use Kaiseki\Core\Archive\UnreadableArchive;

/** Extended header records: "LENGTH KEYWORD=VALUE\n" (POSIX.1-2017, pax, "pax Extended Header"). */
final class PaxRecords
{
    /**
     * By their lengths only: a value may hold newlines and NULs.
     *
     * @return array<string, string> of repeated keywords the last; GNU.sparse 0.0 repeats two, joined with commas
     *
     * @throws UnreadableArchive
     */
    public static function parse(string $bytes, int $position): array
    {
        $records = [];
        $pieces = [];
        for ($at = 0, $end = strlen($bytes); $at < $end && $bytes[$at] !== "\0"; $at += $length) {
            $space = strpos($bytes, ' ', $at);
            $length = $space === false || $space - $at > 19 ? 0 : (int) substr($bytes, $at, $space - $at);
            $equals = $space === false ? false : strpos($bytes, '=', $space);
            if ($space === false || $equals === false || $length <= $equals - $at || $at + $length > $end) {
                throw UnreadableArchive::refused('an extended header that is not well formed', $position);
            }
            $keyword = substr($bytes, $space + 1, $equals - $space - 1);
            $value = substr($bytes, $equals + 1, $at + $length - $equals - 2);
            if ($keyword === 'GNU.sparse.offset' || $keyword === 'GNU.sparse.numbytes') {
                $pieces[] = $value;
            }
            $records[$keyword] = $value;
        }
        if ($pieces !== []) {
            $records['GNU.sparse.map'] = implode(',', $pieces);
        }

        return $records;
    }

    /** @throws UnreadableArchive */
    public static function size(string $value, int $position): int
    {
        if (! ctype_digit($value) || strlen($value) > 19 || (strlen($value) === 19 && strcmp($value, (string) PHP_INT_MAX) > 0)) {
            throw UnreadableArchive::refused('a size that is none', $position);
        }

        return (int) $value;
    }

    /** @param  array<string, string>  $records */
    public static function encode(array $records): string
    {
        $bytes = '';
        foreach ($records as $keyword => $value) {
            $body = ' '.$keyword.'='.$value."\n";
            $length = strlen($body) + strlen((string) strlen($body));
            $length += strlen((string) $length) - strlen((string) strlen($body));
            $bytes .= $length.$body;
        }

        return $bytes;
    }
}
