<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use App\Kinds\Databases\Databases;
use InvalidArgumentException;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Protect\PartRecord;
use Kaiseki\Core\Protect\SetRecord;

/** NAME.set.json beside a dump or a log that was made here: what its file does not say of itself. */
final class SetRecordBeside
{
    /**
     * @param  string  $base  path of the set without the ending of its file
     * @param  string  $file  as it lies now
     * @param  string  $name  as it will be named
     * @param  array<string, mixed>  $more
     */
    public static function write(string $base, string $file, string $name, string $level, string $history, array $more = []): void
    {
        $digest = PieceDigests::of(StreamBytes::ofFile($file));
        file_put_contents(
            "$base.set.json",
            json_encode(
                [
                    'format' => SetRecord::FORMAT,
                    'kind' => Databases::NAME,
                    'name' => basename($base),
                    'level' => $level,
                    'history' => $history,
                    'parts' => [(new PartRecord('', $name, $digest->bytes, bin2hex($digest->digest)))->toArray()],
                ] + $more,
                JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE | JSON_THROW_ON_ERROR,
            )."\n",
        );
    }

    /**
     * What is written of that very file; nothing if it is of another, or names no proper parts.
     *
     * @return array<string, mixed>
     */
    public static function of(string $base, string $file): array
    {
        $record = self::read($base);
        try {
            $part = PartRecord::all($record)[0] ?? null;
        } catch (InvalidArgumentException) {
            return [];
        }
        // A record of format 1 has both beside each other.
        [$bytes, $digest] = $part === null ? [$record['bytes'] ?? null, $record['digest'] ?? null] : [$part->bytes, $part->digest];

        return $bytes === filesize($file) && $digest === bin2hex(PieceDigests::of(StreamBytes::ofFile($file))->digest) ? $record : [];
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
