<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

/** What a recovery medium is written as. */
enum MediumFormat: string
{
    case Iso = 'iso';
    case Stick = 'stick';
    case Netboot = 'netboot';

    public function words(): string
    {
        return match ($this) {
            self::Iso => 'an image of a disc, for BIOS and UEFI',
            self::Stick => 'an image of a stick, for BIOS and UEFI',
            self::Netboot => 'a kernel and what it starts with, for starting over the network',
        };
    }
}
