<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** What a disk is connected to: the machine needs a driver for it to find its own system. */
enum Bus: string
{
    case Virtio = 'virtio';
    case Scsi = 'scsi';
    case Ide = 'ide';
    case Nvme = 'nvme';
}
