<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/**
 * What GNU tar records of a folder in an incremental archive (GNU tar manual, "Dumpdir": a code, a name and a NUL for
 * each name in the folder, and an empty one at the end).
 */
final readonly class DumpDir
{
    private function __construct(
        /** @var array<string, string> name => Y (member of this archive), N (unchanged), D (folder) */
        public array $names,
        /** @var list<array{string, string}> R, T and X records in their order: code and path */
        public array $moves,
    ) {
    }

    /** @throws UnreadableArchive on a code that the format does not have */
    public static function parse(string $bytes, int $at): self
    {
        $names = [];
        $moves = [];
        foreach (explode("\0", $bytes) as $record) {
            if ($record === '') {
                continue;
            }
            $code = $record[0];
            $name = substr($record, 1);
            match ($code) {
                'Y', 'N', 'D' => $names[$name] = $code,
                'R', 'T', 'X' => $moves[] = [$code, $name],
                default => throw UnreadableArchive::refused('a folder record of an unknown kind', $at),
            };
        }

        return new self($names, $moves);
    }

    /** @param  array<array-key, string>  $names name => code */
    public static function encode(array $names): string
    {
        $bytes = '';
        foreach ($names as $name => $code) {
            $bytes .= $code.$name."\0";
        }

        return $bytes."\0";
    }
}
