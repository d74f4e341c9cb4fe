<?php

declare(strict_types=1);

use Kaiseki\Core\Metal\DiskDrivers;
use Kaiseki\Core\Metal\TargetDisk;
use Kaiseki\Core\Metal\TargetMachine;

// What QEMU's machines have on their buses, as Linux wrote it there (modalias of /sys/bus/pci/devices, read from the medium's own facts).
const ON_BUS = [
    'ahci' => 'pci:v00008086d00002922sv00001AF4sd00001100bc01sc06i01',
    'nvme' => 'pci:v00001B36d00000010sv00001AF4sd00001100bc01sc08i02',
    'ide' => 'pci:v00008086d00007010sv00001AF4sd00001100bc01sc01i80',
    'blk' => 'pci:v00001AF4d00001001sv00001AF4sd00000002bc01sc00i00',
    'scsi' => 'pci:v00001AF4d00001004sv00001AF4sd00000008bc01sc00i00',
    'card' => 'pci:v00001AF4d00001000sv00001AF4sd00000001bc02sc00i00',
];

it('knows what a kernel needs to find a disk', function (string $disk, array $bus, array $has, array $missing): void {
    $devices = array_map(fn (string $one): string => ON_BUS[$one], [...$bus, 'card']);
    $target = new TargetDisk($disk, 1 << 30, 512, '', '', false, [], '');
    $machine = new TargetMachine('bios', '', '', 0, [$target], [], $devices);
    expect(DiskDrivers::missing($target, $machine, $has))->toBe($missing);
})->with([
    'AHCI, without it' => ['sda', ['ahci'], ['virtio_pci', 'virtio_blk', 'sd_mod'], ['ahci']],
    'AHCI, with it' => ['sda', ['ahci'], ['ahci', 'sd_mod'], []],
    'NVMe, without it' => ['nvme0n1', ['nvme', 'ahci'], ['ahci', 'sd_mod'], ['nvme']],
    'NVMe, with it' => ['nvme0n1', ['nvme', 'ahci'], ['nvme'], []],
    'virtio' => ['vda', ['blk'], ['virtio_pci'], ['virtio_blk']],
    'one of two controllers' => ['sda', ['ahci', 'scsi'], ['virtio_pci', 'virtio_scsi', 'sd_mod'], []],
    'IDE' => ['sda', ['ide'], ['sd_mod'], ['ata_piix']],
    'what nobody here knows' => ['sda', [], [], []],
]);
