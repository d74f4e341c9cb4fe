<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Kaiseki\Core\Archive\RawBytes;

/**
 * A vhdx image ([MS-VHDX], open specification). One whose log was not played back, or that rests on another, is refused.
 */
final class VhdxImage extends PieceImage
{
    private const PLACES = '2DC27766-F623-4200-9D64-115E9BFD4A08';

    private const METADATA = '8B7CA206-4790-4B9A-B8FE-575F050F886E';

    private const PARAMETERS = 'CAA16737-FA36-4D43-B3B6-33F0AA44E76B';

    private const DISK_SIZE = '2FA54224-CD1B-4876-B211-5DBED83BF4B8';

    private const SECTOR_SIZE = '8141BF1D-A96F-4709-BA47-F233A8FAAB5F';

    /** Entries of its tables that are looked at. */
    private const REGIONS = 2047;

    /** How a piece is: present, and with nothing in it. */
    private const PRESENT = 6;

    private const PARTLY = 7;

    /** Entries of the table of pieces that are read at once. */
    private const ENTRIES = 4096;

    /** @var array<int, string> number of a part of the table => its entries, of the last one */
    private array $part = [];

    /** @param  int  $ratio  after so many pieces the table has an entry that is none */
    private function __construct(
        RawBytes $image,
        int $size,
        int $piece,
        private readonly int $table,
        private readonly int $tableBytes,
        private readonly int $ratio,
    ) {
        parent::__construct($image, $size, $piece);
    }

    /** @throws UnreadableImage */
    public static function open(RawBytes $image): self
    {
        if (Qcow2Header::bytes($image, 0, 8) !== 'vhdxfile') {
            throw UnreadableImage::because('is no vhdx image: it does not begin as one');
        }
        self::checkLog($image);
        $regions = self::regions($image);
        $metadata = $regions[self::METADATA] ?? throw UnreadableImage::damaged('it has nothing that describes its disk');
        $places = $regions[self::PLACES] ?? throw UnreadableImage::damaged('it has no table of its pieces');
        $items = self::items($image, $metadata[0]);
        $parameters =
            unpack('Vpiece/Vflags', $items[self::PARAMETERS] ?? '') ?: throw UnreadableImage::damaged('it does not say its pieces');
        $size = unpack('P', $items[self::DISK_SIZE] ?? '')[1] ?? -1;
        $sector = unpack('V', $items[self::SECTOR_SIZE] ?? '')[1] ?? 0;
        if (($parameters['flags'] & 2) !== 0) {
            throw UnreadableImage::because('holds only what changed over another image, which is not read');
        }
        if (($sector !== 512 && $sector !== 4096) || $parameters['piece'] < 1 << 20 || $parameters['piece'] > 1 << 28) {
            throw UnreadableImage::damaged('it says its pieces have an absurd size');
        }

        return new self($image, $size, $parameters['piece'], $places[0], $places[1], intdiv($sector << 23, $parameters['piece']));
    }

    /** Of its two heads the newer counts. */
    private static function checkLog(RawBytes $image): void
    {
        $log = null;
        $newest = -1;
        foreach ([64 << 10, 128 << 10] as $at) {
            $head = Qcow2Header::bytes($image, $at, 4096);
            $fields = strlen($head) === 4096 && str_starts_with($head, 'head') ? unpack('Psequence/x32/a16log', $head, 8) : false;
            if ($fields !== false && $fields['sequence'] > $newest && self::isRight($head)) {
                [$newest, $log] = [$fields['sequence'], $fields['log']];
            }
        }
        if ($log === null) {
            throw UnreadableImage::damaged('neither of its heads is right');
        }
        if (trim($log, "\0") !== '') {
            throw UnreadableImage::because('was in use: its log has to be played back by the program that wrote it');
        }
    }

    private static function isRight(string $bytes): bool
    {
        return hash('crc32c', substr_replace($bytes, "\0\0\0\0", 4, 4)) === sprintf('%08x', unpack('V', $bytes, 4)[1] ?? 0);
    }

    /** @return array<string, array{int, int}> name => where it lies, and how long it is */
    private static function regions(RawBytes $image): array
    {
        foreach ([192 << 10, 256 << 10] as $at) {
            $table = Qcow2Header::bytes($image, $at, 64 << 10);
            if (strlen($table) !== 64 << 10 || ! str_starts_with($table, 'regi') || ! self::isRight($table)) {
                continue;
            }
            $regions = [];
            for ($i = 0, $count = min(self::REGIONS, unpack('V', $table, 8)[1] ?? 0); $i < $count; $i++) {
                $entry = unpack('Pat/Vlength', $table, 16 + 32 * $i + 16);
                $regions[self::name(substr($table, 16 + 32 * $i, 16))] = [$entry['at'] ?? 0, $entry['length'] ?? 0];
            }

            return $regions;
        }
        throw UnreadableImage::damaged('neither of its tables of regions is right');
    }

    /** @return array<string, string> name => what it says, of its first bytes */
    private static function items(RawBytes $image, int $region): array
    {
        $table = $region < 1 << 20 ? '' : Qcow2Header::bytes($image, $region, 64 << 10);
        if (strlen($table) !== 64 << 10 || ! str_starts_with($table, 'metadata')) {
            throw UnreadableImage::damaged('what describes its disk is not there');
        }
        $items = [];
        for ($i = 0, $count = min(self::REGIONS, unpack('v', $table, 10)[1] ?? 0); $i < $count; $i++) {
            $entry = unpack('Vat/Vlength', $table, 32 + 32 * $i + 16);
            $items[self::name(substr($table, 32 + 32 * $i, 16))] = Qcow2Header::bytes($image, $region + ($entry['at'] ?? 0), 8);
        }

        return $items;
    }

    /** As people write it: its first three parts are stored the other way round. */
    private static function name(string $bytes): string
    {
        $parts = unpack('Va/vb/vc/H4d/H12e', $bytes);
        assert($parts !== false);

        return strtoupper(sprintf('%08x-%04x-%04x-%s-%s', $parts['a'], $parts['b'], $parts['c'], $parts['d'], $parts['e']));
    }

    protected function held(int $number): Held
    {
        return match ($this->entry($number) & 7) {
            self::PRESENT => Held::Data,
            self::PARTLY => throw UnreadableImage::because('holds a part of a piece over another image, which is not read'),
            default => Held::Below,
        };
    }

    private function entry(int $number): int
    {
        $index = $number + intdiv($number, $this->ratio);
        $part = intdiv($index, self::ENTRIES);
        if (! isset($this->part[$part])) {
            $from = $part * self::ENTRIES * 8;
            $this->part = [$part => $this->bytes($this->table + $from, max(0, min(self::ENTRIES * 8, $this->tableBytes - $from)))];
        }
        if (strlen($this->part[$part]) < ($index % self::ENTRIES) * 8 + 8) {
            throw UnreadableImage::damaged('its table has fewer pieces than its disk');
        }

        return unpack('P', $this->part[$part], ($index % self::ENTRIES) * 8)[1] ?? 0;
    }

    protected function bytesOf(int $number, int $within, int $length): string
    {
        return $this->bytes(($this->entry($number) & ~0xFFFFF) + $within, $length);
    }
}
