<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** A disk as its layers give it together, each over those below. */
final readonly class LayeredDisk implements Disk
{
    /** @param  non-empty-list<Layer>  $layers  from the top; the last is all of the disk, and zeros where it holds nothing */
    public function __construct(private array $layers)
    {
    }

    /** The disk with a further layer over it. */
    public function under(Layer $layer): self
    {
        return new self([$layer, ...$this->layers]);
    }

    /** Bytes of the disk: what the topmost says. */
    public function size(): int
    {
        return $this->layers[0]->size();
    }

    /** Exactly so many bytes; behind the end of a layer that is shorter there are zeros. */
    public function read(int $from, int $length): string
    {
        return $this->readBelow(0, $from, min($length, max(0, $this->size() - $from)));
    }

    private function readBelow(int $number, int $from, int $length): string
    {
        $layer = $this->layers[$number] ?? null;
        if ($layer === null || $length <= 0) {
            return str_repeat("\0", max(0, $length));
        }
        $all = '';
        foreach ($layer->read($from, $length) as [$bytes, $held]) {
            $all .= $held ?? $this->readBelow($number + 1, $from, $bytes);
            $from += $bytes;
        }

        return str_pad($all, $length, "\0");
    }
}
