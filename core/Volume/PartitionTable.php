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
                [$type, $uuid] = [self::guidText(substr($entry, 0, 16)), self::guidText(substr($entry, 16, 16))];
                $flags = unpack('P', $entry, 48)[1] ?? 0;
                $length = $span['last'] - $span['first'] + 1;
                $found[] = self::partition($disk, $i + 1, $span['first'], $length, $name, $type, $uuid, $flags);
            }
        }

        return $found;
    }

    /** @return list<Partition> */
    private static function sector(Disk $disk, string $first): array
    {
        $found = [];
        foreach (self::entries($first) as $number => [$type, $from, $count, $flags]) {
            if (in_array($type, self::EXTENDED, true)) {
                $found = [...$found, ...self::logical($disk, $from)];
            } elseif ($type !== 0 && $type !== 0xEE) {
                $found[] = self::partition($disk, $number, $from, $count, '', dechex($type), '', $flags);
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
                [$type, $from, $count, $flags] = $entries[1];
                $found[] = self::partition($disk, $number, $at + $from, $count, '', dechex($type), '', $flags);
            }
            $next = in_array($entries[2][0], self::EXTENDED, true) ? $extended + $entries[2][1] : 0;
            $at = $next > $at ? $next : 0; // none that leads back
        }

        return $found;
    }

    /** @return array<int, array{int, int, int, int}> number from 1 => type, first sector, sectors, flags */
    private static function entries(string $sector): array
    {
        $entries = [];
        for ($i = 0; $i < 4; $i++) {
            $fields = unpack('Vfrom/Vcount', $sector, 446 + 16 * $i + 8);
            $at = 446 + 16 * $i;
            $entries[$i + 1] = [ord($sector[$at + 4]), $fields['from'] ?? 0, $fields['count'] ?? 0, ord($sector[$at]) & 0x80];
        }

        return $entries;
    }

    private static function partition(
        Disk $disk,
        int $number,
        int $first,
        int $count,
        string $name,
        string $type,
        string $uuid,
        int $flags,
    ): Partition {
        // What would not fit into an offset lies in no disk.
        $fits = $first >= 0 && $count >= 0 && $first < 1 << 50 && $count < 1 << 50;
        [$from, $size] = $fits ? [$first * self::SECTOR, $count * self::SECTOR] : [0, 0];

        return new Partition($disk, $number, $from, $size, $name, $type, $uuid, $flags);
    }

    /** As it is written: of its five groups, the first three have their bytes turned (UEFI specification, appendix A). */
    private static function guidText(string $bytes): string
    {
        $groups = [strrev(substr($bytes, 0, 4)), strrev(substr($bytes, 4, 2)), strrev(substr($bytes, 6, 2)), substr($bytes, 8, 2)];

        return strtoupper(implode('-', array_map(bin2hex(...), [...$groups, substr($bytes, 10)])));
    }

    /**
     * Which table a disk has: "gpt", "dos" or "" for none, and what the table itself is called by ("" where it has no name).
     *
     * @return array{string, string} of a GUID partition table a GUID, of another a number such as 0x1a2b3c4d
     */
    public static function nameOf(Disk $disk): array
    {
        $first = $disk->read(0, self::SECTOR);
        if (strlen($first) < self::SECTOR || substr($first, 510) !== "\x55\xaa") {
            return ['', ''];
        }
        foreach ([1, intdiv($disk->size(), self::SECTOR) - 1] as $sector) {
            if (self::guidAt($disk, $sector) !== null) {
                return ['gpt', self::guidText($disk->read($sector * self::SECTOR + 56, 16))];
            }
        }
        $isTable = array_filter(self::entries($first), fn (array $entry): bool => $entry[0] !== 0 && $entry[0] !== 0xEE) !== [];

        return $isTable && self::of($disk)[0]->number !== 0 ? ['dos', sprintf('0x%08x', unpack('V', $first, 440)[1] ?? 0)] : ['', ''];
    }
}
