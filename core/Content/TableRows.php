<?php

declare(strict_types=1);

namespace Kaiseki\Core\Content;

/** Rows of cells out of text (RFC 4180, and with semicolons or tabs between the cells). */
final class TableRows
{
    private const MOST_CELLS = 60;

    /** @return list<list<string>> at most so many rows */
    public static function of(string $text, int $most): array
    {
        $separator = self::separator($text);
        $stream = fopen('php://memory', 'w+b');
        assert($stream !== false);
        fwrite($stream, $text);
        rewind($stream);
        $rows = [];
        while (count($rows) < $most && ($cells = fgetcsv($stream, null, $separator, '"', '')) !== false) {
            $rows[] = array_map(strval(...), array_slice($cells, 0, self::MOST_CELLS));
        }
        fclose($stream);

        return $rows;
    }

    /** The one that stands most often in the first lines. */
    private static function separator(string $text): string
    {
        $head = implode("\n", array_slice(explode("\n", substr($text, 0, 8192)), 0, 10));
        $counts = [',' => substr_count($head, ','), ';' => substr_count($head, ';'), "\t" => substr_count($head, "\t")];
        arsort($counts);

        return (string) array_key_first($counts);
    }
}
