<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;

/** One volume of LVM, read through to the disks that its pieces lie on. */
final readonly class LogicalVolume implements Disk
{
    /**
     * @param  non-empty-list<array{int, int, int, non-empty-list<array{PhysicalVolume, int}>}>  $pieces  from, length, and the width of a
     *     stripe, in bytes; and the stripes: on which disk, from which byte
     */
    public function __construct(private array $pieces, private int $size)
    {
    }

    public function size(): int
    {
        return $this->size;
    }

    public function read(int $from, int $length): string
    {
        $all = '';
        for ($end = min($this->size, $from + $length); $from < $end; $from += strlen($bytes)) {
            [$disk, $at, $most] = $this->place($from);
            $wanted = min($most, $end - $from);
            $bytes = $disk->read($at, $wanted);
            if (strlen($bytes) !== $wanted) {
                throw UnreadableVolume::damaged('a piece of it lies behind the end of its disk');
            }
            $all .= $bytes;
        }

        return $all;
    }

    /** @return array{Disk, int, int} the disk, the byte there, and how many bytes from there on are one behind the other */
    private function place(int $at): array
    {
        foreach ($this->pieces as [$from, $length, $width, $stripes]) {
            if ($at >= $from && $at < $from + $length) {
                $stripe = intdiv($at - $from, $width);
                $within = ($at - $from) % $width;
                [$physical, $begins] = $stripes[$stripe % count($stripes)];

                return [$physical->disk, $begins + intdiv($stripe, count($stripes)) * $width + $within, $width - $within];
            }
        }
        throw UnreadableVolume::damaged("nothing lies at its byte $at");
    }
}
