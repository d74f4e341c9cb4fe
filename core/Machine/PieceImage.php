<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Kaiseki\Core\Archive\RawBytes;

/** An image that keeps its disk in pieces of one size, each somewhere in it or nowhere: what vhd, vhdx and vmdk have in common. */
abstract class PieceImage implements Layer
{
    /** Pieces that a disk has at most: a table of them is read as it is asked for. */
    protected const MOST = 1 << 26;

    /**
     * @param  int  $size  bytes of the disk
     * @param  int  $piece  bytes of a piece
     */
    protected function __construct(protected readonly RawBytes $image, private readonly int $size, protected readonly int $piece)
    {
        if ($size < 0 || $size >= 1 << 60 || $piece < 512 || $piece > 1 << 30 || $piece % 512 !== 0 || intdiv($size, $piece) > self::MOST) {
            throw UnreadableImage::damaged('it says its disk, or a piece of it, has an absurd size');
        }
    }

    /** What it has of a piece. */
    abstract protected function held(int $number): Held;

    /** So many bytes from within a piece that it has data of. */
    abstract protected function bytesOf(int $number, int $within, int $length): string;

    public function size(): int
    {
        return $this->size;
    }

    public function extents(): iterable
    {
        $held = null;
        $from = 0;
        for ($number = 0, $at = 0; $at < $this->size; $number++, $at += $this->piece) {
            $here = $this->held($number);
            if ($held !== null && $here !== $held) {
                yield new Extent($held, $from, $at);
                $from = $at;
            }
            $held = $here;
        }
        if ($held !== null) {
            yield new Extent($held, $from, $this->size);
        }
    }

    public function read(int $from, int $length): iterable
    {
        for ($end = min($from + $length, $this->size); $from < $end; $from += $bytes) {
            $number = intdiv($from, $this->piece);
            $within = $from - $number * $this->piece;
            $bytes = min($end - $from, $this->piece - $within);
            yield [$bytes, match ($this->held($number)) {
                Held::Data => $this->bytesOf($number, $within, $bytes),
                Held::Zeros => str_repeat("\0", $bytes),
                Held::Below => null,
            }];
        }
    }

    /** @throws UnreadableImage */
    protected function bytes(int $at, int $length): string
    {
        $bytes = $at < 0 || $length < 0 || $at + $length > $this->image->size() ? '' : Qcow2Header::bytes($this->image, $at, $length);
        if (strlen($bytes) !== $length) {
            throw UnreadableImage::damaged("it is {$this->image->size()} bytes long, and says that something lies at byte $at");
        }

        return $bytes;
    }
}
