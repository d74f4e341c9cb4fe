<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** A disk of which it is known, without reading it, where there is nothing but zeros. */
interface SparseDisk extends Disk
{
    /**
     * What begins at a byte of it: zeros, or something.
     *
     * @param  int  $most  bytes behind which nobody wants to know
     * @return array{int, bool} how many bytes it goes on, at least 1; and whether they are known to be zeros
     *
     * @throws UnreadableImage
     */
    public function stretch(int $from, int $most): array;
}
