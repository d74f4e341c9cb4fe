<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

/** Formats that an image is written in for elsewhere, by the names that qemu-img(1) gives them. */
enum ImageFormat: string
{
    case Raw = 'raw';
    case Qcow2 = 'qcow2';
    case Vpc = 'vpc';
    case Vhdx = 'vhdx';
    case Vmdk = 'vmdk';

    public function extension(): string
    {
        return $this === self::Vpc ? 'vhd' : $this->value;
    }

    public function words(): string
    {
        return match ($this) {
            self::Raw => 'byte by byte, holes left out',
            self::Qcow2 => 'only what is used, and changes can be kept over it',
            self::Vpc => 'dynamic, up to 2040 GiB',
            self::Vhdx => 'dynamic, up to 64 TiB',
            self::Vmdk => 'compressed, to be read in one go',
        };
    }

    /** Bytes of the largest disk that it takes; null where that is beyond any. As tried with qemu-img 7.2. */
    public function largest(): ?int
    {
        return match ($this) {
            self::Vpc => 2040 << 30,
            self::Vhdx => 64 << 40,
            default => null,
        };
    }

    /** @return list<string> what qemu-img convert is told of it; without the first a vhd is made a little larger than its disk */
    public function options(): array
    {
        return match ($this) {
            self::Vpc => ['-o', 'force_size=on'],
            self::Vmdk => ['-o', 'subformat=streamOptimized'],
            default => [],
        };
    }
}
