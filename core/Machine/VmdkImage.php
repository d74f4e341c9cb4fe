<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Kaiseki\Core\Archive\RawBytes;

/**
 * A vmdk image of one sparse extent in one file, compressed or not ("Virtual Disk Format" 5.0). What its description names is not opened:
 * one of several files, or that rests on another, is refused.
 */
final class VmdkImage extends PieceImage
{
    private const COMPRESSED = 1 << 16;

    private const ZEROED = 1 << 2;

    private readonly string $directory;

    /** @var array<int, string> number of a table => its entries, of the last few */
    private array $tables = [];

    /** @var array{int, string} the compressed piece that was read last: where it lies, and its bytes */
    private array $unpacked = [0, ''];

    private function __construct(
        RawBytes $image,
        int $size,
        int $piece,
        private readonly int $perTable,
        int $directory,
        private readonly int $flags,
    ) {
        parent::__construct($image, $size, $piece);
        if ($perTable < 1 || $perTable > 1 << 16) {
            throw UnreadableImage::damaged('its tables have an absurd size');
        }
        $tables = intdiv(intdiv($size + $piece - 1, $piece) + $perTable - 1, $perTable);
        $this->directory = $this->bytes($directory, $tables * 4);
    }

    /** @throws UnreadableImage */
    public static function open(RawBytes $image): self
    {
        $fields = self::header($image, 0);
        if ($fields['directory'] === -1) {
            // it was written in one go, and says so at its end
            $fields = self::header($image, $image->size() - 1024);
        }
        if ($fields['capacity'] < 0 || $fields['capacity'] > 1 << 50 || $fields['grain'] < 1 || $fields['grain'] > 1 << 20) {
            throw UnreadableImage::damaged('it says its disk, or a piece of it, has an absurd size');
        }
        self::checkDescription($image, $fields['description'], $fields['descriptionSize']);
        if (($fields['flags'] & self::COMPRESSED) !== 0 && $fields['compression'] !== 1) {
            throw UnreadableImage::because('is compressed in a way that is not read');
        }

        return new self(
            $image,
            $fields['capacity'] * 512,
            $fields['grain'] * 512,
            $fields['perTable'],
            $fields['directory'] * 512,
            $fields['flags'],
        );
    }

    /** @return array<string, int> */
    private static function header(RawBytes $image, int $at): array
    {
        $bytes = $at < 0 ? '' : Qcow2Header::bytes($image, $at, 512);
        if (strlen($bytes) < 512 || ! str_starts_with($bytes, 'KDMV')) {
            throw UnreadableImage::because('is no sparse vmdk image, or a part of it is missing');
        }
        $fields = unpack(
            'Vmagic/Vversion/Vflags/Pcapacity/Pgrain/Pdescription/PdescriptionSize/VperTable/x8/Pdirectory/x8/x5/vcompression',
            $bytes,
        );
        assert($fields !== false);

        return $fields;
    }

    private static function checkDescription(RawBytes $image, int $at, int $size): void
    {
        $text = $at > 0 && $at < 1 << 40 && $size > 0 && $size <= 2048 ? Qcow2Header::bytes($image, $at * 512, $size * 512) : '';
        if (preg_match('/^parentCID=(?!ffffffff)/im', $text) === 1) {
            throw UnreadableImage::because('holds only what changed over another image, which is not read');
        }
        if (preg_match_all('/^(RW|RDONLY) \d+ /m', $text) > 1) {
            throw UnreadableImage::because('is one of several files of a disk, which are not read');
        }
    }

    protected function held(int $number): Held
    {
        $place = $this->place($number);

        return match (true) {
            $place === 0 => Held::Below,
            $place === 1 && ($this->flags & self::ZEROED) !== 0 => Held::Zeros,
            default => Held::Data,
        };
    }

    /** Sectors from its beginning. */
    private function place(int $number): int
    {
        $table = intdiv($number, $this->perTable);
        if (! isset($this->tables[$table])) {
            $at = unpack('V', $this->directory, $table * 4)[1] ?? 0;
            if (count($this->tables) > 8) {
                unset($this->tables[array_key_first($this->tables)]);
            }
            $this->tables[$table] = $at === 0 ? '' : $this->bytes($at * 512, $this->perTable * 4);
        }

        return $this->tables[$table] === '' ? 0 : unpack('V', $this->tables[$table], ($number % $this->perTable) * 4)[1] ?? 0;
    }

    protected function bytesOf(int $number, int $within, int $length): string
    {
        $at = $this->place($number) * 512;
        if (($this->flags & self::COMPRESSED) === 0) {
            return $this->bytes($at + $within, $length);
        }
        if ($this->unpacked[0] !== $at) {
            $size = unpack('Psector/Vsize', $this->bytes($at, 12));
            if ($size === false || $size['size'] > 2 * $this->piece + 1024 || $number * $this->piece !== $size['sector'] * 512) {
                throw UnreadableImage::damaged("a compressed piece at byte $at is not the one that should lie there");
            }
            $packed = $this->bytes($at + 12, $size['size']);
            // No more than the piece has: a few bytes can be made to unpack to gigabytes.
            $bytes = @zlib_decode($packed, $this->piece + 1);
            $this->unpacked = [$at, $bytes === false ? '' : str_pad($bytes, $this->piece, "\0")];
        }
        if (strlen($this->unpacked[1]) !== $this->piece) {
            throw UnreadableImage::damaged("a compressed piece at byte $at cannot be unpacked");
        }

        return substr($this->unpacked[1], $within, $length);
    }
}
