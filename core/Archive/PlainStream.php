<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** An archive that is not compressed. */
final class PlainStream implements ByteStream
{
    private const CHUNK = 262144;

    private string $buffer = '';

    private int $at = 0;

    private int $position;

    /** @param  RawBytes  $file standing at $start */
    public function __construct(private readonly RawBytes $file, private readonly int $start = 0)
    {
        $this->position = 0;
    }

    public function read(int $length): string
    {
        $available = strlen($this->buffer) - $this->at;
        if ($available < $length) {
            $more = '';
            $wanted = max(self::CHUNK, $length - $available);
            while (strlen($more) < $wanted && ($part = $this->file->read($wanted - strlen($more))) !== '') {
                $more .= $part;
            }
            $this->buffer = substr($this->buffer, $this->at).$more;
            $this->at = 0;
        }
        $bytes = substr($this->buffer, $this->at, $length);
        $this->at += strlen($bytes);
        $this->position += strlen($bytes);

        return $bytes;
    }

    public function skip(int $length): int
    {
        $available = strlen($this->buffer) - $this->at;
        if ($length <= $available) {
            $this->at += $length;
            $this->position += $length;

            return $length;
        }
        $target = min($this->start + $this->position + $length, $this->file->size());
        $skipped = $target - $this->start - $this->position;
        $this->file->seek($target);
        $this->buffer = '';
        $this->at = 0;
        $this->position += $skipped;

        return $skipped;
    }

    public function position(): int
    {
        return $this->position;
    }

    public function place(): Place
    {
        return new Place($this->start + $this->position, 0);
    }
}
