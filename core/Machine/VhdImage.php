<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Kaiseki\Core\Archive\RawBytes;

/** A vhd image, fixed or dynamic ("Virtual Hard Disk Image Format Specification" 1.0). One that rests on another is refused. */
final class VhdImage extends PieceImage
{
    private const NOWHERE = 0xFFFFFFFF;

    /** Entries of the table that are read at once. */
    private const ENTRIES = 4096;

    /** @var array<int, string> number of a part of the table => its entries, of the last one */
    private array $part = [];

    /** @param  int  $table  where the table of pieces lies; 0 for a fixed image, which has none */
    private function __construct(RawBytes $image, int $size, int $piece, private readonly int $table, private readonly int $count)
    {
        parent::__construct($image, $size, $piece);
    }

    /** @throws UnreadableImage */
    public static function open(RawBytes $image): self
    {
        $footer = Qcow2Header::bytes($image, max(0, $image->size() - 512), 512);
        $fields =
            str_starts_with($footer, 'conectix') && strlen($footer) === 512 ? unpack('Jheader/x24/Jsize/x4/Ntype', $footer, 16) : false;
        if ($fields === false) {
            throw UnreadableImage::because('is no vhd image, or a part of it is missing: it does not end as one');
        }
        if ($fields['type'] === 2) {
            if ($fields['size'] !== $image->size() - 512) {
                throw UnreadableImage::damaged('it is not as long as its disk');
            }

            return new self($image, $fields['size'], 2 << 20, 0, 0);
        }
        if ($fields['type'] !== 3) {
            throw UnreadableImage::because('holds only what changed over another image, which is not read');
        }
        $head = Qcow2Header::bytes($image, max(0, $fields['header']), 64);
        $more = str_starts_with($head, 'cxsparse') && strlen($head) === 64 ? unpack('Jtable/x4/Ncount/Npiece', $head, 16) : false;
        if ($more === false) {
            throw UnreadableImage::damaged('what should say where its pieces lie is not there');
        }

        return new self($image, $fields['size'], $more['piece'], $more['table'], $more['count']);
    }

    protected function held(int $number): Held
    {
        return $this->table === 0 || $this->place($number) !== self::NOWHERE ? Held::Data : Held::Below;
    }

    private function place(int $number): int
    {
        if ($number >= $this->count) {
            throw UnreadableImage::damaged('its table has fewer pieces than its disk');
        }
        $part = intdiv($number, self::ENTRIES);
        if (! isset($this->part[$part])) {
            $this->part = [
                $part => $this->bytes(
                    $this->table + $part * self::ENTRIES * 4,
                    4 * min(self::ENTRIES, $this->count - $part * self::ENTRIES),
                ),
            ];
        }

        return unpack('N', $this->part[$part], ($number % self::ENTRIES) * 4)[1] ?? self::NOWHERE;
    }

    protected function bytesOf(int $number, int $within, int $length): string
    {
        if ($this->table === 0) {
            return $this->bytes($number * $this->piece + $within, $length);
        }
        // Before each piece stands which sectors of it were written, a bit each; the others are zeros there.
        $bits = intdiv(intdiv($this->piece, 512 * 8) + 511, 512) * 512;

        return $this->bytes($this->place($number) * 512 + $bits + $within, $length);
    }
}
