<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use App\Trees\Run\PathInJson;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;

/** How a version is told in JSON. */
final class VersionRow
{
    public static function kind(Version $version): string
    {
        return match ($version->kind) {
            EntryKind::File, EntryKind::HardLink => 'file',
            EntryKind::Folder => 'folder',
            EntryKind::Symlink => 'symlink',
            EntryKind::Fifo => 'fifo',
            EntryKind::CharacterDevice, EntryKind::BlockDevice => 'device',
            EntryKind::Excluded => 'excluded',
            EntryKind::NotStored => 'not stored',
        };
    }

    /** Nanoseconds since 1970 as ISO 8601 in UTC, with all decimals that matter. */
    public static function time(int $nanoseconds): string
    {
        $seconds = intdiv($nanoseconds, 1_000_000_000);
        $rest = $nanoseconds % 1_000_000_000;
        if ($rest < 0) {
            $rest += 1_000_000_000;
            $seconds--;
        }
        $decimals = rtrim(sprintf('%09d', $rest), '0');

        return gmdate('Y-m-d\TH:i:s', $seconds).($decimals === '' ? '' : '.'.$decimals).'Z';
    }

    /** @return array<string, mixed> */
    public static function extras(Version $version): array
    {
        return array_filter(
            [
                'digest' => $version->digest === null ? null : bin2hex($version->digest),
                'target' => $version->kind === EntryKind::Symlink ? PathInJson::of($version->linkTarget)['path'] : null,
            ],
            fn (?string $value): bool => $value !== null,
        );
    }
}
