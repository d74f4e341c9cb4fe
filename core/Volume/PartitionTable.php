<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;

/**
 * The partitions of a disk: by a GUID partition table (UEFI specification, chapter 5), by a table in its first sector (as fdisk(8) and
 * sfdisk(8) write it), logical ones included, or none.
 */
final class PartitionTable
{
    private const SECTOR = 512;

    /** Entries of a GUID partition table, and links of a chain of logical partitions, that are looked at. */
    private const MOST = 1024;

    private const EXTENDED = [0x05, 0x0F, 0x85];

    /** @return list<Partition> in the order of their numbers; the disk as a whole where there is no table */
    public static function of(Disk $disk): array
    {
        $first = $disk->read(0, self::SECTOR);
        $isTable = strlen($first) === self::SECTOR && substr($first, 510) === "\x55\xaa";
        $found = $isTable ? self::guid($disk) ?? self::sector($disk, $first) : [];
        // One that does not lie in the disk is none; where two overlap, each is what it says.
        $found = array_values(
            array_filter(
                $found,
                fn (Partition $one): bool => $one->from > 0 && $one->size() > 0 && $one->from + $one->size() <= $disk->size(),
            ),
        );

        return $found === [] ? [new Partition($disk, 0, 0, $disk->size())] : $found;
    }

    /** @return list<Partition>|null null if there is no such table, or neither it nor the one at the end is sound */
    private static function guid(Disk $disk): ?array
    {
        $last = intdiv($disk->size(), self::SECTOR) - 1;

        return self::guidAt($disk, 1) ?? self::guidAt($disk, $last);
    }

    /** @return list<Partition>|null */
    private static function guidAt(Disk $disk, int $sector): ?array
    {
        $head = $disk->read($sector * self::SECTOR, self::SECTOR);
        if (strlen($head) < 92 || ! str_starts_with($head, 'EFI PART')) {
            return null;
        }
        $fields = unpack('Vlength/Vcrc', $head, 12) + unpack('Pentries/Vcount/Veach/Vsum', $head, 72);
        $length = $fields['length'];
        if (
            $length < 92 ||
            $length > self::SECTOR ||
            crc32(substr_replace(substr($head, 0, $length), "\0\0\0\0", 16, 4)) !== $fields['crc']
        ) {
            return null;
        }
        [$count, $each] = [$fields['count'], $fields['each']];
        if ($count > self::MOST || $each < 128 || $each > 4096 || $fields['entries'] < 2) {
            return null;
        }
        $table = $disk->read($fields['entries'] * self::SECTOR, $count * $each);
        if (crc32($table) !== $fields['sum']) {
            return null;
        }
        $found = [];
        for ($i = 0; $i < $count; $i++) {
            $entry = substr($table, $i * $each, 128);
            if (substr($entry, 0, 16) !== str_repeat("\0", 16)) {
                $span = unpack('Pfirst/Plast', $entry, 32);
                $name = rtrim((string) @mb_convert_encoding(substr($entry, 56, 72), 'UTF-8', 'UTF-16LE'), "\0");
                $found[] = self::partition($disk, $i + 1, $span['first'], $span['last'] - $span['first'] + 1, $name);
            }
        }

        return $found;
    }

    /** @return list<Partition> */
    private static function sector(Disk $disk, string $first): array
    {
        $found = [];
        foreach (self::entries($first) as $number => [$type, $from, $count]) {
            if (in_array($type, self::EXTENDED, true)) {
                $found = [...$found, ...self::logical($disk, $from)];
            } elseif ($type !== 0 && $type !== 0xEE) {
                $found[] = self::partition($disk, $number, $from, $count);
            }
        }
        usort($found, fn (Partition $a, Partition $b): int => $a->number <=> $b->number);

        return $found;
    }

    /** @return list<Partition> the chain that begins in an extended partition, as far as it goes forward */
    private static function logical(Disk $disk, int $extended): array
    {
        $found = [];
        for ($at = $extended, $number = 5; $at > 0 && $number < self::MOST; $number++) {
            $sector = $disk->read($at * self::SECTOR, self::SECTOR);
            if (strlen($sector) < self::SECTOR || substr($sector, 510) !== "\x55\xaa") {
                break;
            }
            $entries = self::entries($sector);
            if ($entries[1][0] !== 0) {
                $found[] = self::partition($disk, $number, $at + $entries[1][1], $entries[1][2]);
            }
            $next = in_array($entries[2][0], self::EXTENDED, true) ? $extended + $entries[2][1] : 0;
            $at = $next > $at ? $next : 0; // none that leads back
        }

        return $found;
    }

    /** @return array<int, array{int, int, int}> number from 1 => type, first sector, sectors */
    private static function entries(string $sector): array
    {
        $entries = [];
        for ($i = 0; $i < 4; $i++) {
            $fields = unpack('Vfrom/Vcount', $sector, 446 + 16 * $i + 8);
            $entries[$i + 1] = [ord($sector[446 + 16 * $i + 4]), $fields['from'] ?? 0, $fields['count'] ?? 0];
        }

        return $entries;
    }

    private static function partition(Disk $disk, int $number, int $first, int $count, string $name = ''): Partition
    {
        // What would not fit into an offset lies in no disk.
        $fits = $first >= 0 && $count >= 0 && $first < 1 << 50 && $count < 1 << 50;

        return new Partition($disk, $number, $fits ? $first * self::SECTOR : 0, $fits ? $count * self::SECTOR : 0, $name);
    }
}
