<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Closure;

/** The extended attributes of an inode that people set: user.* of attr(5). */
final class ExtAttributes
{
    private const MAGIC = 0xEA020000;

    private const USER = 1;

    /**
     * @param  Closure(int): string  $block
     * @return array<string, string> as TarEntry::$extended has them
     */
    public static function of(ExtInode $inode, Closure $block): array
    {
        $found = [];
        if (strlen($inode->rest) >= 8 && (unpack('V', $inode->rest)[1] ?? 0) === self::MAGIC) {
            $within = substr($inode->rest, 4);
            $found = self::entries($within, 0, $within);
        }
        if ($inode->attributes !== 0) {
            $bytes = $block($inode->attributes);
            if (strlen($bytes) >= 32 && (unpack('V', $bytes)[1] ?? 0) === self::MAGIC) {
                $found += self::entries($bytes, 32, $bytes);
            }
        }

        return $found;
    }

    /**
     * @param  string  $values  what the offsets of values count from
     * @return array<string, string>
     */
    private static function entries(string $bytes, int $at, string $values): array
    {
        $found = [];
        while ($at + 16 <= strlen($bytes)) {
            $entry = unpack('Clength/Cindex/voffset/Velsewhere/Vsize', $bytes, $at);
            if ($entry === false || ($entry['length'] === 0 && $entry['index'] === 0)) {
                break;
            }
            $name = substr($bytes, $at + 16, $entry['length']);
            $isHere = $entry['elsewhere'] === 0 && strlen($values) >= $entry['offset'] + $entry['size'];
            if ($entry['index'] === self::USER && $isHere) {
                $found["SCHILY.xattr.user.$name"] = substr($values, $entry['offset'], $entry['size']);
            }
            $at += 16 + (($entry['length'] + 3) & ~3);
        }

        return $found;
    }
}
