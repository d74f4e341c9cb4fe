<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

use Kaiseki\Core\Archive\ContentSink;

/** Takes a disk from its beginning to its end, and writes it to a new one of a machine: what is zeros is so there already. */
final class DiskSink implements ContentSink
{
    private int $at = 0;

    public function __construct(private readonly NbdDisk $disk)
    {
    }

    public function data(string $bytes): void
    {
        $this->disk->write($this->at, $bytes);
        $this->at += strlen($bytes);
    }

    public function hole(int $length): void
    {
        $this->at += $length;
    }
}
