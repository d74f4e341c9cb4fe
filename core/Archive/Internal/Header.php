<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive\Internal;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\Place;

/** One header block (POSIX.1-2017, pax, "ustar Interchange Format"; GNU tar manual, "Basic Tar Format"). */
final readonly class Header
{
    private function __construct(
        public string $path,
        public string $type,
        public int $size,
        public int $mode,
        public int $uid,
        public int $gid,
        /** Seconds since 1970. */
        public int $mtime,
        public string $linkTarget,
        public string $uname,
        public string $gname,
        public string $block,
        public bool $afterDamage,
        public ?Place $place,
    ) {
    }

    /** Null if the block is no header, or one whose checksum does not fit. */
    public static function parse(string $block, bool $afterDamage, ?Place $place): ?self
    {
        $recorded = self::number($block, 148, 8);
        if ($recorded !== self::checksum($block)) {
            return null;
        }
        $magic = substr($block, 257, 8);
        $path = self::text($block, 0, 100);
        // Only POSIX headers have a name prefix: GNU's put times and sparse maps there.
        if ($magic === "ustar\00000" && $block[345] !== "\0") {
            $path = self::text($block, 345, 155).'/'.$path;
        }
        $size = self::number($block, 124, 12);
        if ($size < 0) {
            return null;
        }
        $named = str_starts_with($magic, 'ustar');

        return new self(
            $path, $block[156], $size,
            self::number($block, 100, 8) & 07777, self::number($block, 108, 8), self::number($block, 116, 8), self::number($block, 136, 12),
            self::text($block, 157, 100), $named ? self::text($block, 265, 32) : '', $named ? self::text($block, 297, 32) : '',
            $block, $afterDamage, $place,
        );
    }

    /** Sum of the bytes, the checksum field itself taken as spaces. */
    public static function checksum(string $block): int
    {
        $sum = 256;
        foreach (count_chars(substr_replace($block, "\0\0\0\0\0\0\0\0", 148, 8), 1) as $byte => $times) {
            $sum += $byte * $times;
        }

        return $sum;
    }

    public function kind(string $path): EntryKind
    {
        return match ($this->type) {
            '1' => EntryKind::HardLink,
            '2' => EntryKind::Symlink,
            '3' => EntryKind::CharacterDevice,
            '4' => EntryKind::BlockDevice,
            '5', 'D' => EntryKind::Folder,
            '6' => EntryKind::Fifo,
            // Before POSIX a folder was told by the slash at its end alone.
            "\0", '0' => str_ends_with($path, '/') ? EntryKind::Folder : EntryKind::File,
            default => EntryKind::File,
        };
    }

    public static function toNanoseconds(int $seconds): int
    {
        $most = intdiv(PHP_INT_MAX, 1_000_000_000);

        return max(-$most, min($most, $seconds)) * 1_000_000_000;
    }

    /** Octal digits, or with the first bit set a big-endian two's complement number (GNU). */
    public static function number(string $block, int $at, int $length): int
    {
        $first = ord($block[$at]);
        if ($first < 0x80) {
            $digits = trim(substr($block, $at, $length), " \0");
            if (ctype_digit($digits)) {
                return (int) octdec($digits);
            }

            return (int) octdec(preg_replace('/[^0-7].*$/s', '', ltrim(substr($block, $at, $length), " \0")) ?? '');
        }
        $value = $first === 0xFF ? -1 : $first & 0x7F;
        for ($i = 1; $i < $length; $i++) {
            if ($value > PHP_INT_MAX >> 8 || $value < PHP_INT_MIN >> 8) {
                return $first === 0xFF ? PHP_INT_MIN : PHP_INT_MAX;
            }
            $value = ($value << 8) | ord($block[$at + $i]);
        }

        return $value;
    }

    private static function text(string $block, int $at, int $length): string
    {
        $end = strpos($block, "\0", $at);

        return substr($block, $at, $end === false || $end - $at > $length ? $length : $end - $at);
    }
}
