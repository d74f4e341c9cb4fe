<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Machine\UnreadableImage;

/** A partition or disk that is a part of an LVM volume group: its label, and what it says of the group (lvm2's format_text, version 2). */
final readonly class PhysicalVolume
{
    private const SECTOR = 512;

    /** Sectors in which a label is looked for. */
    private const LABELS = 4;

    /** What an area of metadata is known by. */
    public const MAGIC = ' LVM2 x[5A%r0N*>';

    /** Entries of each of the lists behind the label. */
    private const MOST_AREAS = 16;

    /** Bytes of the text. */
    private const LONGEST = 4 << 20;

    /** What the checksums of LVM begin with. */
    private const CRC_BEGIN = 0xF597A6CF;

    /**
     * @param  string  $id  32 characters
     * @param  array<string, mixed>  $group  as LvmText gives it
     */
    private function __construct(public Disk $disk, public string $id, public array $group)
    {
    }

    /**
     * Null if it is none.
     *
     * @throws UnreadableVolume|UnreadableImage if it is one that cannot be read
     */
    public static function on(Disk $disk): ?self
    {
        for ($sector = 0; $sector < self::LABELS; $sector++) {
            $label = $disk->read($sector * self::SECTOR, self::SECTOR);
            if (str_starts_with($label, 'LABELONE') && substr($label, 24, 8) === 'LVM2 001') {
                $offset = unpack('V', $label, 20)[1] ?? 0;
                $head = $disk->read($sector * self::SECTOR + $offset, 40 + 2 * 16 * (self::MOST_AREAS + 1));
                if ($offset < 32 || $offset > self::SECTOR || strlen($head) < 72) {
                    throw UnreadableVolume::damaged('its LVM label says what cannot be');
                }

                return new self($disk, substr($head, 0, 32), LvmText::parse(self::text($disk, self::metadata($head))));
            }
        }

        return null;
    }

    /** @return array{int, int} where the first area of metadata is: from, and how long */
    private static function metadata(string $head): array
    {
        $at = 40;
        for ($list = 0; $list < 2; $list++) {
            for ($n = 0; $n <= self::MOST_AREAS && strlen($head) >= $at + 16; $n++, $at += 16) {
                $area = unpack('Pfrom/Plength', $head, $at);
                if ($area === false || $area['from'] === 0) {
                    break;
                }
                if ($list === 1) {
                    return [$area['from'], $area['length']];
                }
            }
            $at += 16;
        }
        throw UnreadableVolume::because('is of an LVM volume group, and holds nothing of what that is');
    }

    /** @param  array{int, int}  $area */
    private static function text(Disk $disk, array $area): string
    {
        [$from, $length] = $area;
        $head = $disk->read($from, self::SECTOR);
        $isHead = substr($head, 4, 16) === self::MAGIC && self::sum(substr($head, 4)) === unpack('V', $head)[1];
        if ($length < 2 * self::SECTOR || ! $isHead) {
            throw UnreadableVolume::damaged('its area of LVM metadata is not whole');
        }
        $place = unpack('Pfrom/Plength/Vcrc', $head, 40);
        assert($place !== false);
        [$at, $bytes] = [$place['from'], $place['length']];
        if ($at < self::SECTOR || $at >= $length || $bytes < 1 || $bytes > min(self::LONGEST, $length - self::SECTOR)) {
            throw UnreadableVolume::because('is of an LVM volume group, and holds nothing of what that is');
        }
        // The area is a ring behind its first sector.
        $first = min($bytes, $length - $at);
        $text = $disk->read($from + $at, $first).($first < $bytes ? $disk->read($from + self::SECTOR, $bytes - $first) : '');

        return self::sum($text) === $place['crc'] ? $text : throw UnreadableVolume::damaged('its LVM metadata is not whole');
    }

    /** As LVM reckons it, of labels, heads and texts. */
    public static function sum(string $bytes): int
    {
        static $table = null;
        if ($table === null) {
            $table = [];
            for ($n = 0; $n < 256; $n++) {
                for ($crc = $n, $bit = 0; $bit < 8; $bit++) {
                    $crc = ($crc & 1) !== 0 ? 0xEDB88320 ^ ($crc >> 1) : $crc >> 1;
                }
                $table[] = $crc;
            }
        }
        $crc = self::CRC_BEGIN;
        for ($i = 0, $end = strlen($bytes); $i < $end; $i++) {
            $crc = ($crc >> 8) ^ $table[($crc ^ ord($bytes[$i])) & 0xFF];
        }

        return $crc;
    }
}
