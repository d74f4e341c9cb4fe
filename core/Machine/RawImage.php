<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Kaiseki\Core\Archive\RawBytes;

/** A disk byte by byte. Whatever it begins with, it is that: a guest may write what looks like another format. */
final readonly class RawImage implements Layer
{
    private const AT_ONCE = 1 << 20;

    public function __construct(private RawBytes $image)
    {
    }

    public function size(): int
    {
        return $this->image->size();
    }

    public function extents(): iterable
    {
        if ($this->size() > 0) {
            yield new Extent(Held::Data, 0, $this->size());
        }
    }

    public function read(int $from, int $length): iterable
    {
        for ($end = min($from + $length, $this->size()); $from < $end; $from += strlen($bytes)) {
            $bytes = Qcow2Header::bytes($this->image, $from, min(self::AT_ONCE, $end - $from));
            if ($bytes === '') {
                throw UnreadableImage::damaged("it ends at byte $from");
            }
            yield [strlen($bytes), $bytes];
        }
    }
}
