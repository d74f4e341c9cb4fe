<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Kaiseki\Core\Archive\RawBytes;

/**
 * One qcow2 image, read by itself ("QCOW2 image format", docs/interop/qcow2 of the QEMU project): its own clusters, those that
 * are zeros, and those that it leaves to what lies below. Nothing it names is opened; what it points to must lie within it.
 */
final class Qcow2Image implements Layer
{
    private const OFFSET = 0x00FF_FFFF_FFFF_FE00;

    private const COMPRESSED = 1 << 62;

    private const ZERO = 1;

    /** Compressed bytes that are unpacked at once. */
    private const PACKED = 4096;

    /** Tables of the second level that are held at once. */
    private const TABLES = 4;

    private readonly int $cluster;

    private readonly int $perTable;

    private readonly string $l1;

    private readonly int $fileSize;

    /** @var array<int, string> number of the table => its entries as they are stored; '' where there is none */
    private array $tables = [];

    /** @var array{int, string} the compressed cluster that was read last: its entry, and its bytes */
    private array $unpacked = [0, ''];

    private function __construct(private readonly RawBytes $image, public readonly Qcow2Header $header)
    {
        $this->cluster = 1 << $header->clusterBits;
        $this->perTable = intdiv($this->cluster, 8);
        $this->fileSize = $image->size();
        $this->l1 = Qcow2Header::bytes($image, $header->l1Offset, $header->l1Entries * 8);
        if (strlen($this->l1) !== $header->l1Entries * 8) {
            throw UnreadableImage::damaged('it ends within its first table');
        }
    }

    /** @throws UnreadableImage */
    public static function open(RawBytes $image): self
    {
        return new self($image, Qcow2Header::read($image));
    }

    public function size(): int
    {
        return $this->header->size;
    }

    public function extents(): iterable
    {
        $size = $this->header->size;
        $span = $this->cluster * $this->perTable;
        $held = null;
        $from = 0;
        for ($at = 0, $number = 0; $at < $size; $at += $span, $number++) {
            $table = array_values(unpack('J*', $this->table($number)) ?: []);
            for ($i = 0; $i < max(1, count($table)) && $at + $i * $this->cluster < $size; $i++) {
                $here = self::held($table[$i] ?? 0);
                if ($here !== $held) {
                    $now = $at + $i * $this->cluster;
                    if ($held !== null) {
                        yield new Extent($held, $from, $now);
                    }
                    [$held, $from] = [$here, $now];
                }
            }
        }
        if ($held !== null) {
            yield new Extent($held, $from, $size);
        }
    }

    public function read(int $from, int $length): iterable
    {
        $end = min($from + $length, $this->header->size);
        while ($from < $end) {
            $number = $from >> $this->header->clusterBits;
            $entry = $this->entry($number);
            $within = $from - ($number << $this->header->clusterBits);
            $held = self::held($entry);
            $bytes = min($end - $from, $this->cluster - $within);
            if ($held !== Held::Data) {
                yield [$bytes, $held === Held::Zeros ? str_repeat("\0", $bytes) : null];
            } elseif (($entry & self::COMPRESSED) !== 0) {
                yield [$bytes, substr($this->compressed($entry), $within, $bytes)];
            } else {
                // Clusters that lie one behind the other in the file are read at once.
                $at = ($entry & self::OFFSET) + $within;
                while ($from + $bytes < $end && $this->entry(++$number) === ($entry += $this->cluster)) {
                    $bytes = min($end - $from, $bytes + $this->cluster);
                }
                yield [$bytes, $this->bytes($at, $bytes)];
            }
            $from += $bytes;
        }
    }

    private static function held(int $entry): Held
    {
        return match (true) {
            ($entry & self::COMPRESSED) !== 0 => Held::Data,
            ($entry & self::ZERO) !== 0 => Held::Zeros,
            ($entry & self::OFFSET) !== 0 => Held::Data,
            default => Held::Below,
        };
    }

    private function entry(int $cluster): int
    {
        $table = $this->table(intdiv($cluster, $this->perTable));

        return $table === '' ? 0 : unpack('J', $table, $cluster % $this->perTable * 8)[1] ?? 0;
    }

    private function table(int $number): string
    {
        if (isset($this->tables[$number])) {
            return $this->tables[$number];
        }
        $at = (unpack('J', $this->l1, $number * 8)[1] ?? 0) & self::OFFSET;
        if (count($this->tables) >= self::TABLES) {
            unset($this->tables[array_key_first($this->tables)]);
        }
        if ($at === 0) {
            return $this->tables[$number] = '';
        }
        if ($at % $this->cluster !== 0) {
            throw UnreadableImage::damaged("one of its tables is said to lie at byte $at, where none can");
        }

        return $this->tables[$number] = $this->bytes($at, $this->cluster);
    }

    /** A cluster is mostly asked for piece by piece: the last one is kept. */
    private function compressed(int $entry): string
    {
        if ($this->unpacked[0] !== $entry) {
            $this->unpacked = [$entry, $this->unpack($entry)];
        }

        return $this->unpacked[1];
    }

    private function unpack(int $entry): string
    {
        $shift = 62 - ($this->header->clusterBits - 8);
        $at = $entry & ((1 << $shift) - 1);
        $sectors = ($entry >> $shift) & ((1 << ($this->header->clusterBits - 8)) - 1);
        if ($this->header->isZstd) {
            throw UnreadableImage::because('is compressed with zstd; that is not read (qemu-img convert rewrites it)');
        }
        $length = min(($sectors + 1) * 512 - ($at & 511), $this->fileSize - $at);
        $packed = $length <= 0 ? '' : $this->bytes($at, $length);
        $inflate = inflate_init(ZLIB_ENCODING_RAW);
        // A little at a time, so that no image makes more of it than a cluster and a bit.
        for ($bytes = '', $i = 0; $inflate !== false && $i < $length && strlen($bytes) < $this->cluster; $i += self::PACKED) {
            $more = @inflate_add($inflate, substr($packed, $i, self::PACKED), ZLIB_SYNC_FLUSH);
            if ($more === false) {
                break;
            }
            $bytes .= $more;
        }
        if (strlen($bytes) !== $this->cluster) {
            throw UnreadableImage::damaged("a compressed cluster at byte $at cannot be unpacked");
        }

        return $bytes;
    }

    private function bytes(int $at, int $length): string
    {
        $bytes = $at + $length > $this->fileSize ? '' : Qcow2Header::bytes($this->image, $at, $length);
        if (strlen($bytes) !== $length) {
            throw UnreadableImage::damaged("it is {$this->fileSize} bytes long, and says that something lies at byte $at");
        }

        return $bytes;
    }
}
