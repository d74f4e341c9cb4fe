<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use App\Kinds\Databases\Databases;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\StreamBytes;

/** NAME.set.json beside a dump or a log that was made here: what its file does not say of itself. */
final class SetRecordBeside
{
    /** Of the record: another one is read as far as it goes. */
    private const FORMAT = 2;

    /**
     * @param  string  $base  path of the set without the ending of its file
     * @param  array<string, mixed>  $more
     */
    public static function write(string $base, string $file, string $level, string $history, array $more = []): void
    {
        $digest = PieceDigests::of(StreamBytes::ofFile($file));
        file_put_contents("$base.set.json", json_encode([
            'format' => self::FORMAT, 'kind' => Databases::NAME, 'set' => basename($base), 'level' => $level, 'history' => $history,
            'bytes' => $digest->bytes, 'digest' => bin2hex($digest->digest),
        ] + $more, JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE | JSON_THROW_ON_ERROR)."\n");
    }

    /**
     * What is written of that very file; nothing if it is of another.
     *
     * @return array<string, mixed>
     */
    public static function of(string $base, string $file): array
    {
        $record = self::read($base);
        $isOfIt = ($record['bytes'] ?? null) === filesize($file) && ($record['digest'] ?? '') === bin2hex(PieceDigests::of(StreamBytes::ofFile($file))->digest);

        return $isOfIt ? $record : [];
    }

    /** The name of the history; that of the first where nothing is written. */
    public static function history(string $base): string
    {
        $history = self::read($base)['history'] ?? '1';

        return is_string($history) && preg_match('/^[A-Za-z0-9._-]{1,60}$/D', $history) === 1 ? $history : '1';
    }

    /** @return array<string, mixed> */
    private static function read(string $base): array
    {
        $json = @file_get_contents("$base.set.json");
        $record = $json === false ? null : json_decode($json, true);

        return is_array($record) ? $record : [];
    }
}
