<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

/** A disk of a machine that stands, as a page shows it. */
final readonly class StandingDisk
{
    /**
     * @param  int  $size  bytes
     * @param  bool  $isServed  whether it is read from its sets where the machine has not written to it
     * @param  string  $lies  the storage that has what the machine has written
     * @param  string  $goes  the storage that it comes to
     */
    public function __construct(
        public string $name,
        public int $size,
        public bool $isServed,
        public string $lies,
        public string $goes,
    ) {
    }
}
