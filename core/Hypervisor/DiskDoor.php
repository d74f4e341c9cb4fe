<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** Where a disk of a machine is read or written by NBD, for as long as whoever asked for it stays. */
final readonly class DiskDoor
{
    /**
     * @param  string  $socket  of this machine
     * @param  string  $export  name of the disk there
     */
    public function __construct(public string $socket, public string $export = '')
    {
    }
}
