<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** What a machine begins with. */
enum Firmware: string
{
    case Bios = 'bios';
    case Uefi = 'uefi';
}
