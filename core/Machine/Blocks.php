<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Kaiseki\Core\Archive\ContentDigest;

/**
 * Disks are told apart and checked by blocks of 64 KiB: as large as the usual cluster of a qcow2 image, so that a block is
 * mostly one cluster of one image, and small enough that a change costs little (docs/decisions/0030).
 */
final class Blocks
{
    public const BYTES = 1 << 16;

    /** So many that a disk has; the last may be shorter. */
    public static function of(int $size): int
    {
        return intdiv($size + self::BYTES - 1, self::BYTES);
    }

    /** Bytes of a block of a disk. */
    public static function length(int $number, int $size): int
    {
        return max(0, min(self::BYTES, $size - $number * self::BYTES));
    }

    /** Whether there is nothing but zeros. */
    public static function isZero(string $bytes): bool
    {
        static $zeros = null;
        $zeros ??= str_repeat("\0", self::BYTES);

        return strlen($bytes) === self::BYTES ? $bytes === $zeros : $bytes === substr($zeros, 0, strlen($bytes));
    }

    /** BLAKE2b-256 (RFC 7693), 32 bytes. */
    public static function digest(string $bytes): string
    {
        return ContentDigest::of($bytes);
    }
}
