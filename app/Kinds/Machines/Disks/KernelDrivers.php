<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Models\BackupSet;
use Kaiseki\Core\Hypervisor\Bus;
use Kaiseki\Core\Hypervisor\Firmware;

/** With which drivers for disks a kernel of a machine starts: built in, or in its initramfs. */
final readonly class KernelDrivers
{
    /** In the facts of a set. */
    private const FACT = 'kernels';

    /**
     * @param  string  $version  as it calls itself: "6.1.0-18-amd64"
     * @param  string  $disk  where it lies
     * @param  string  $mark  of its initramfs, by which one that was looked into is known again
     * @param  list<string>  $modules
     * @param  string|null  $unread  why that is not known
     */
    public function __construct(
        public string $version,
        public string $disk,
        public string $mark,
        public array $modules,
        public ?string $unread = null,
    ) {
    }

    /**
     * What a disk of the hypervisors that are known takes, by how it is connected. Names as the kernel's; of IDE what a board with that
     * firmware has.
     *
     * @return list<string>
     */
    private static function needed(Bus $bus, Firmware $firmware): array
    {
        return match ($bus) {
            Bus::Virtio => ['virtio_pci', 'virtio_blk'],
            Bus::Scsi => ['virtio_pci', 'virtio_scsi', 'sd_mod'],
            Bus::Nvme => ['nvme'],
            Bus::Ide => [$firmware === Firmware::Bios ? 'ata_piix' : 'ahci', 'sd_mod'],
        };
    }

    /** @return list<string> of those that it would need and has not */
    public function missing(Bus $bus, Firmware $firmware): array
    {
        return array_values(array_diff(self::needed($bus, $firmware), $this->modules));
    }

    /**
     * The kernel that would start from a disk: the newest, as is common practice of loaders. Null where none is known,
     * or not what it starts with.
     */
    public static function starting(BackupSet $set, string $disk): ?self
    {
        $kernels = array_filter(self::ofSet($set), fn (self $one): bool => $one->disk === $disk);
        usort($kernels, fn (self $a, self $b): int => version_compare($b->version, $a->version));

        return ($kernels[0]->unread ?? null) === null ? $kernels[0] ?? null : null;
    }

    /** @return list<self> */
    public static function ofSet(BackupSet $set): array
    {
        return array_map(fn (array $kept): self => new self(
            (string) $kept['version'],
            (string) $kept['disk'],
            (string) $kept['mark'],
            array_map(strval(...), (array) $kept['modules']),
            isset($kept['unread']) ? (string) $kept['unread'] : null,
        ), array_values((array) ($set->facts[self::FACT] ?? [])));
    }

    /** @param  list<self>  $kernels */
    public static function keep(BackupSet $set, array $kernels): void
    {
        $set->update(['facts' => [self::FACT => array_map(get_object_vars(...), $kernels)] + ($set->facts ?? [])]);
    }
}
