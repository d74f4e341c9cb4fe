<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Machine\Disk;

/**
 * FAT with 12, 16 or 32 bits and long names ("FAT32 File System Specification" 1.03, also ECMA-107), as an EFI system partition and many a
 * stick have it.
 */
final class Fat implements FileSystem
{
    /** Bytes of a folder that are read at most: so many entries as one can have. */
    private const LARGEST_FOLDER = 65_536 * 32;

    private const ENTRY = 32;

    private const FOLDER = 0x10;

    private const LABEL = 0x08;

    private const LONG_NAME = 0x0F;

    private const READ_ONLY = 0x01;

    private readonly int $clusterSize;

    private readonly int $clusters;

    /** 12, 16 or 32. */
    private readonly int $bits;

    /** Bytes from the beginning of the volume: of the first table, the fixed root folder, the first cluster. */
    private readonly int $table;

    private readonly int $fixedRoot;

    private readonly int $data;

    private readonly int $rootBytes;

    private readonly int $rootCluster;

    private readonly int $tableBytes;

    private function __construct(private readonly Disk $disk, string $boot)
    {
        $fields = unpack('vsector/CperCluster/vreserved/Ctables/vroot/vtotal/x1/vtable/x8/Vtotal32/Vtable32/x4/VrootCluster', $boot, 11);
        assert($fields !== false);
        $sector = $fields['sector'];
        $total = $fields['total'] ?: $fields['total32'];
        $this->tableBytes = ($fields['table'] ?: $fields['table32']) * $sector;
        $this->clusterSize = $sector * $fields['perCluster'];
        $this->rootBytes = $fields['root'] * self::ENTRY;
        $this->table = $fields['reserved'] * $sector;
        $this->fixedRoot = $this->table + $fields['tables'] * $this->tableBytes;
        $this->data = $this->fixedRoot + intdiv($this->rootBytes + $sector - 1, $sector) * $sector;
        $this->clusters = intdiv(max(0, $total * $sector - $this->data), $this->clusterSize);
        $this->bits = match (true) {
            $this->clusters < 4085 => 12,
            $this->clusters < 65525 => 16,
            default => 32,
        };
        $this->rootCluster = $this->bits === 32 ? $fields['rootCluster'] : 0;
        if ($this->tableBytes * 8 < ($this->clusters + 2) * $this->bits || $total * $sector > $disk->size()) {
            throw UnreadableVolume::damaged('its first sector says what cannot be');
        }
    }

    /** Null if a volume holds no such file system. */
    public static function on(Disk $disk): ?self
    {
        $boot = $disk->read(0, 512);
        if (strlen($boot) < 512 || substr($boot, 510) !== "\x55\xaa" || ($boot[0] !== "\xeb" && $boot[0] !== "\xe9")) {
            return null;
        }
        [$sector, $perCluster] = [unpack('v', $boot, 11)[1] ?? 0, ord($boot[13])];
        $isPlausible =
            in_array($sector, [512, 1024, 2048, 4096], true) &&
            $perCluster > 0 &&
            ($perCluster & ($perCluster - 1)) === 0 &&
            (unpack('v', $boot, 14)[1] ?? 0) > 0 &&
            in_array(ord($boot[16]), [1, 2], true);

        return $isPlausible ? new self($disk, $boot) : null;
    }

    public function type(): string
    {
        return "FAT{$this->bits}";
    }

    public function label(): string
    {
        foreach ($this->entries(0) as [$entry]) {
            if ((ord($entry[11]) & (self::LABEL | self::FOLDER)) === self::LABEL) {
                return rtrim(substr($entry, 0, 11));
            }
        }

        return '';
    }

    public function losses(): array
    {
        return ['FAT keeps no owners, modes and links, and times without a zone: they are taken as UTC.'];
    }

    public function root(): FoundFile
    {
        return new FoundFile(0, self::version(EntryKind::Folder, 0, 0, 0755));
    }

    public function children(FoundFile $folder): iterable
    {
        if ($folder->version->kind !== EntryKind::Folder) {
            return;
        }
        foreach ($this->entries($folder->node) as [$entry, $long]) {
            $attributes = ord($entry[11]);
            $name = $long ?? self::shortName($entry);
            if (($attributes & self::LABEL) !== 0 || $name === '.' || $name === '..') {
                continue;
            }
            Posix::refuseOdd($name);
            yield $name => $this->file($entry, $attributes);
        }
    }

    public function child(FoundFile $folder, string $name): ?FoundFile
    {
        foreach ($this->children($folder) as $found => $file) {
            if ((string) $found === $name) {
                return $file;
            }
        }

        return null;
    }

    private function file(string $entry, int $attributes): FoundFile
    {
        $fields = unpack('vtime/vdate/vlow/Vsize', $entry, 22) + unpack('vhigh', $entry, 20);
        $isFolder = ($attributes & self::FOLDER) !== 0;
        $cluster = (($this->bits === 32 ? $fields['high'] : 0) << 16) | $fields['low'];
        $date = $fields['date'];
        $mtime = gmmktime($fields['time'] >> 11, $fields['time'] >> 5 & 63, ($fields['time'] & 31) * 2, $date >> 5 & 15, $date & 31,
            1980 + ($date >> 9));

        return new FoundFile(
            $cluster,
            self::version(
                $isFolder ? EntryKind::Folder : EntryKind::File,
                $isFolder ? 0 : $fields['size'],
                $date === 0 ? 0 : (int) $mtime,
                $isFolder ? 0755 : (($attributes & self::READ_ONLY) !== 0 ? 0444 : 0644),
            ),
        );
    }

    private static function version(EntryKind $kind, int $size, int $seconds, int $mode): Version
    {
        return new Version($kind, $size, $seconds * 1_000_000_000, null, $mode, 0, 0, '', '');
    }

    public function content(FoundFile $file): iterable
    {
        $left = $file->version->kind === EntryKind::File ? $file->version->size : 0;
        foreach ($left === 0 ? [] : $this->chain($file->node) as $cluster) {
            $bytes = $this->cluster($cluster, min($left, $this->clusterSize));
            yield $bytes;
            $left -= strlen($bytes);
            if ($left === 0) {
                return;
            }
        }
        if ($left > 0) {
            throw UnreadableVolume::damaged('a file is longer than what is stored of it');
        }
    }

    private function cluster(int $number, int $length): string
    {
        $bytes = $this->disk->read($this->data + ($number - 2) * $this->clusterSize, $length);

        return strlen($bytes) === $length ? $bytes : throw UnreadableVolume::damaged("the cluster $number does not lie within it");
    }

    /** @return iterable<int> the clusters of a file or folder, from its first */
    private function chain(int $cluster): iterable
    {
        for ($seen = 0; $cluster >= 2 && $cluster < $this->clusters + 2; $seen++) {
            if ($seen > $this->clusters) {
                throw UnreadableVolume::damaged('a chain of clusters leads back into itself');
            }
            yield $cluster;
            $cluster = $this->next($cluster);
        }
    }

    private function next(int $cluster): int
    {
        $at = intdiv($cluster * $this->bits, 8);
        $bytes = $this->disk->read($this->table + $at, max(1, min(4, $this->tableBytes - $at)));
        $value = unpack('V', str_pad($bytes, 4, "\0"))[1] ?? 0;

        return match ($this->bits) {
            12 => $cluster % 2 === 0 ? $value & 0xFFF : ($value >> 4) & 0xFFF,
            16 => $value & 0xFFFF,
            default => $value & 0x0FFFFFFF,
        };
    }

    /** @return iterable<array{string, string|null}> the entries of a folder, and the long name of each */
    private function entries(int $cluster): iterable
    {
        $long = [];
        foreach ($this->folder($cluster) as $piece) {
            for ($at = 0; $at + self::ENTRY <= strlen($piece); $at += self::ENTRY) {
                $entry = substr($piece, $at, self::ENTRY);
                if ($entry[0] === "\0") {
                    return;
                }
                if ($entry[0] === "\xe5") {
                    $long = [];
                } elseif (ord($entry[11]) === self::LONG_NAME) {
                    $long[ord($entry[0]) & 0x3F] = [substr($entry, 1, 10).substr($entry, 14, 12).substr($entry, 28, 4), ord($entry[13])];
                } else {
                    yield [$entry, self::longName($long, $entry)];
                    $long = [];
                }
            }
        }
    }

    /** @return iterable<string> */
    private function folder(int $cluster): iterable
    {
        if ($cluster === 0 && $this->bits !== 32) {
            yield $this->disk->read($this->fixedRoot, $this->rootBytes);

            return;
        }
        $read = 0;
        foreach ($this->chain($cluster === 0 ? $this->rootCluster : $cluster) as $one) {
            if (($read += $this->clusterSize) > self::LARGEST_FOLDER) {
                throw UnreadableVolume::damaged('a folder is longer than one can be');
            }
            yield $this->cluster($one, $this->clusterSize);
        }
    }

    /** @param  array<int, array{string, int}>  $parts  number => UTF-16LE, and the sum of the short name it belongs to */
    private static function longName(array $parts, string $entry): ?string
    {
        $sum = 0;
        for ($i = 0; $i < 11; $i++) {
            $sum = ((($sum & 1) << 7) | ($sum >> 1)) + ord($entry[$i]) & 0xFF;
        }
        ksort($parts);
        if ($parts === [] || array_keys($parts) !== range(1, count($parts)) || array_unique(array_column($parts, 1)) !== [$sum]) {
            return null;
        }
        $units = implode('', array_column($parts, 0));
        for ($end = 0; $end < strlen($units) && substr($units, $end, 2) !== "\0\0"; $end += 2) {
            continue;
        }

        return (string) @mb_convert_encoding(substr($units, 0, $end), 'UTF-8', 'UTF-16LE');
    }

    /** Of code page 437, as a DOS wrote it; letters that were small are told by two bits. */
    private static function shortName(string $entry): string
    {
        $case = ord($entry[12]);
        [$stem, $ending] = [rtrim(substr($entry, 0, 8), ' '), rtrim(substr($entry, 8, 3), ' ')];
        $stem = ($case & 0x08) !== 0 ? strtolower($stem) : $stem;
        $ending = ($case & 0x10) !== 0 ? strtolower($ending) : $ending;
        $name = $stem.($ending === '' ? '' : ".$ending");
        $name = str_starts_with($name, "\x05") ? "\xe5".substr($name, 1) : $name;

        return mb_check_encoding($name, 'ASCII') ? $name : (string) iconv('CP437', 'UTF-8//TRANSLIT', $name);
    }
}
