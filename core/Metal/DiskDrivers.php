<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** Which drivers a kernel needs to find a disk of a machine, by what is on its PCI bus: told before, since nobody asks a kernel. */
final class DiskDrivers
{
    /** By class, subclass and interface ("PCI Code and ID Assignment Specification": 0106/01 AHCI, 0108/02 NVM Express, 0101 IDE). */
    private const CLASSES = ['/bc01sc06i01$/' => 'ahci', '/bc01sc08i02$/' => 'nvme', '/v00008086.*bc01sc01i..$/' => 'ata_piix'];

    /** Of virtio: vendor 1AF4, and the device (VIRTIO specification 1.1, 4.1.2 and 5). */
    private const VIRTIO = [
        '/^pci:v00001AF4d0000(1001|1042)/' => 'virtio_blk', '/^pci:v00001AF4d0000(1004|1048)/' => 'virtio_scsi',
    ];

    /**
     * Of each controller that a disk of that name may hang on, the drivers that it takes. Empty where nothing is known of it.
     *
     * @return list<list<string>>
     */
    public static function of(TargetDisk $disk, TargetMachine $machine): array
    {
        $found = [];
        foreach ($machine->devices as $device) {
            foreach (self::CLASSES + self::VIRTIO as $pattern => $driver) {
                preg_match($pattern, $device) === 1 && $found[$driver] = $driver;
            }
        }
        $mayBe = match (true) {
            str_starts_with($disk->name, 'nvme') => ['nvme'],
            str_starts_with($disk->name, 'vd') => ['virtio_blk'],
            default => ['ahci', 'ata_piix', 'virtio_scsi'],
        };

        return array_values(array_map(fn (string $driver): array => match ($driver) {
            'nvme' => ['nvme'],
            'virtio_blk' => ['virtio_pci', 'virtio_blk'],
            'virtio_scsi' => ['virtio_pci', 'virtio_scsi', 'sd_mod'],
            default => [$driver, 'sd_mod'],
        }, array_intersect($mayBe, $found)));
    }

    /**
     * Those that a kernel lacks for a disk, whichever controller it hangs on; none where it has all of one, or nothing is known.
     *
     * @param  list<string>  $has  modules, built in or in its initramfs
     * @return list<string>
     */
    public static function missing(TargetDisk $disk, TargetMachine $machine, array $has): array
    {
        $missing = array_map(fn (array $needs): array => array_values(array_diff($needs, $has)), self::of($disk, $machine));

        return in_array([], $missing, true) ? [] : array_values(array_unique(array_merge(...$missing)));
    }
}
