<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** Where a file of NTFS leads that stands for another ([MS-FSCC] 2.1.2: reparse points). */
final class NtfsLink
{
    private const LARGEST = 16_384;

    private const MOUNT_POINT = 0xA0000003;

    private const SYMLINK = 0xA000000C;

    private const LX_SYMLINK = 0xA000001D;

    /** With slashes; null if it is no such file. */
    public static function target(NtfsFile $file): ?string
    {
        $stream = $file->stream('', NtfsAttribute::REPARSE_POINT);
        $bytes = $stream === null || $stream->size() > self::LARGEST ? '' : $stream->read(0, $stream->size());
        $tag = strlen($bytes) >= 16 ? unpack('V', $bytes)[1] ?? 0 : 0;

        return match ($tag) {
            self::SYMLINK => self::path($bytes, 20),
            self::MOUNT_POINT => self::path($bytes, 16),
            self::LX_SYMLINK => mb_scrub(substr($bytes, 12)),
            default => null,
        };
    }

    /** @param  int  $names  where they begin */
    private static function path(string $bytes, int $names): string
    {
        $fields = unpack('vfull/vfullLength/vshown/vshownLength', $bytes, 8);
        assert($fields !== false);
        $name = substr($bytes, $names + $fields['shown'], $fields['shownLength']);
        $name = $name !== '' ? $name : substr($bytes, $names + $fields['full'], $fields['fullLength']);
        $text = mb_scrub((string) @mb_convert_encoding($name, 'UTF-8', 'UTF-16LE'));

        return str_replace(['\\', "\0"], ['/', ''], (string) preg_replace('/^\\\\\\?\\?\\\\/', '', $text));
    }
}
