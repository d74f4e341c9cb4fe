<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Closure;

/**
 * The extended attributes of an inode (attr(5)): what people set, access lists, and what says how the system treats a file
 * ("Extended Attributes" of the Linux kernel's documentation of ext4).
 */
final class ExtAttributes
{
    private const MAGIC = 0xEA020000;

    /** Of the number that stands for the beginning of a name. */
    private const NAMED = [1 => 'SCHILY.xattr.user.', 4 => 'SCHILY.xattr.trusted.', 6 => 'SCHILY.xattr.security.'];

    private const LISTS = [2 => 'SCHILY.acl.access', 3 => 'SCHILY.acl.default'];

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
            $value = $isHere ? substr($values, $entry['offset'], $entry['size']) : null;
            if ($value !== null && isset(self::NAMED[$entry['index']])) {
                $found[self::NAMED[$entry['index']].$name] = $value;
            }
            $list = $value === null || ! isset(self::LISTS[$entry['index']]) ? null : PosixAccessList::text($value);
            if ($list !== null) {
                $found[self::LISTS[$entry['index']]] = $list;
            }
            $at += 16 + (($entry['length'] + 3) & ~3);
        }

        return $found;
    }
}
