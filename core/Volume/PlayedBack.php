<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;

/** A volume as it is once its journal was played back, which writes nothing. */
final readonly class PlayedBack implements Disk
{
    public function __construct(private Disk $disk, private int $blockSize, private ExtJournal $journal)
    {
    }

    public function size(): int
    {
        return $this->disk->size();
    }

    public function read(int $from, int $length): string
    {
        $all = $this->disk->read($from, $length);
        for ($at = 0; $at < strlen($all); $at += $this->blockSize - ($from + $at) % $this->blockSize) {
            $newer = $this->journal->newer(intdiv($from + $at, $this->blockSize));
            if ($newer !== null) {
                $piece = substr($newer, ($from + $at) % $this->blockSize, strlen($all) - $at);
                $all = substr_replace($all, $piece, $at, strlen($piece));
            }
        }

        return $all;
    }
}
