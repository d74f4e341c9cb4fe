<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Kaiseki\Core\Archive\RawBytes;

/**
 * The head of a qcow2 image, versions 2 and 3 ("QCOW2 image format", docs/interop/qcow2 of the QEMU project). What it says is
 * bounded before anything is done with it; the file it names as its backing is told, and never opened.
 */
final readonly class Qcow2Header
{
    public const MAGIC = "QFI\xfb";

    private const LENGTH = 112;

    /** Entries of the first table: 32 MiB of them, as much as the reference implementation takes. */
    private const MOST_L1 = (32 << 20) / 8;

    /** Incompatible features (bits). */
    private const CORRUPT = 1 << 1;

    private const EXTERNAL_DATA = 1 << 2;

    private const COMPRESSION_TYPE = 1 << 3;

    private const SUBCLUSTERS = 1 << 4;

    private const KNOWN = 0b11111;

    private function __construct(
        /** Bytes of the disk. */
        public int $size,
        public int $clusterBits,
        public int $l1Offset,
        public int $l1Entries,
        /** The name of its backing file as it stands there, of whatever bytes; '' for none. */
        public string $backing,
        /** Whether its compressed clusters are zstd's; deflate otherwise. */
        public bool $isZstd,
    ) {
    }

    /** @throws UnreadableImage */
    public static function read(RawBytes $image): self
    {
        $head = self::bytes($image, 0, self::LENGTH);
        if (! str_starts_with($head, self::MAGIC)) {
            throw UnreadableImage::because('is no qcow2 image: it does not begin as one');
        }
        if (strlen($head) < 72) {
            throw UnreadableImage::damaged('it ends within its head');
        }
        $head = str_pad($head, self::LENGTH, "\0");
        $fields = unpack(
            'Nmagic/Nversion/JbackingAt/NbackingLength/NclusterBits/Jsize/Ncrypt/Nl1/Jl1At/JrefcountsAt/Nrefcounts/Nsnapshots/'.
                'JsnapshotsAt/Jincompatible/Jcompatible/Jautoclear/Norder/Nlength/Ccompression',
            $head,
        );
        assert($fields !== false);
        if ($fields['version'] !== 2 && $fields['version'] !== 3) {
            throw UnreadableImage::because("is a qcow2 image of version {$fields['version']}; versions 2 and 3 are read");
        }
        $features = $fields['version'] === 2 ? 0 : $fields['incompatible'];
        self::check($features, $fields['crypt']);
        $bits = $fields['clusterBits'];
        if ($bits < 9 || $bits > 21) {
            throw UnreadableImage::damaged("it says its clusters have 2^$bits bytes");
        }
        self::checkTable($fields['size'], $bits, $fields['l1'], $fields['l1At'], $image->size());

        return new self(
            $fields['size'],
            $bits,
            $fields['l1At'],
            $fields['l1'],
            self::backing($image, $fields['backingAt'], $fields['backingLength'], $bits),
            ($features & self::COMPRESSION_TYPE) !== 0 && $fields['compression'] === 1,
        );
    }

    private static function check(int $features, int $crypt): void
    {
        $because = match (true) {
            ($features & self::CORRUPT) !== 0 => 'is marked as corrupt by the program that wrote it last',
            ($features & self::EXTERNAL_DATA) !== 0 => 'keeps its data in another file, which it names itself; such are not opened',
            ($features & self::SUBCLUSTERS) !== 0 => 'has clusters of several parts (extended L2 entries), which are not read',
            ($features & ~self::KNOWN) !== 0 => 'needs features that are not known here',
            $crypt !== 0 => 'is encrypted',
            default => null,
        };
        if ($because !== null) {
            throw UnreadableImage::because($because);
        }
    }

    private static function checkTable(int $size, int $bits, int $entries, int $at, int $fileSize): void
    {
        if ($size < 0 || $size >= 1 << 60) {
            throw UnreadableImage::damaged('it says its disk has an absurd size');
        }
        $needed = intdiv($size + (1 << (2 * $bits - 3)) - 1, 1 << (2 * $bits - 3));
        if ($entries > self::MOST_L1 || $entries < $needed) {
            throw UnreadableImage::damaged("its first table has $entries entries for a disk of $size bytes");
        }
        if ($entries > 0 && ($at < 1 << $bits || $at % (1 << $bits) !== 0 || $at + $entries * 8 > $fileSize)) {
            throw UnreadableImage::damaged('its first table does not lie within it');
        }
    }

    private static function backing(RawBytes $image, int $at, int $length, int $bits): string
    {
        if ($at === 0 || $length === 0) {
            return '';
        }
        if ($length > 1023 || $at < 72 || $at + $length > 1 << $bits) {
            throw UnreadableImage::damaged('the name of its backing file does not lie in its head');
        }

        return self::bytes($image, $at, $length);
    }

    /** So many bytes from an offset; fewer only at the end. */
    public static function bytes(RawBytes $image, int $at, int $length): string
    {
        $image->seek($at);
        for ($bytes = ''; strlen($bytes) < $length; $bytes .= $more) {
            $more = $image->read($length - strlen($bytes));
            if ($more === '') {
                break;
            }
        }

        return $bytes;
    }
}
