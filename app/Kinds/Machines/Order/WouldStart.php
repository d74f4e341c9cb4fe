<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Disks\KernelDrivers;
use App\Kinds\Machines\Disks\MachineTree;
use Kaiseki\Core\Hypervisor\Firmware;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\UnableToRead;
use Kaiseki\Core\Volume\UefiLoader;

/** What a machine would start with, by what is on its first disk at the point: said before, since a firmware is not asked. */
final class WouldStart
{
    /** Bytes of the first sector that are code; what follows is a table. */
    private const CODE = 440;

    /**
     * @param  Disk|null  $first  the disk that it starts from, as it was at the point; null if the point does not have it
     * @param  MachineSettings|null  $was  how it was configured, where that is known
     * @param  KernelDrivers|null  $kernel  that would start, where it was looked for
     * @return list<string> why it may not start, in sentences
     */
    public static function cautions(
        MachineTree $tree,
        MachineSettings $is,
        ?MachineSettings $was,
        string $disk,
        ?Disk $first,
        ?KernelDrivers $kernel,
    ): array {
        $cautions = [];
        try {
            if ($first === null) {
                return ["It would start from $disk, which this point does not have."];
            }
            if ($is->firmware === Firmware::Uefi && ! self::hasLoader($tree, $disk)) {
                $cautions[] = "It starts by UEFI there, and $disk has no EFI system partition with ".UefiLoader::path().' on it.';
            }
            if ($is->firmware === Firmware::Bios && trim($first->read(0, self::CODE), "\0") === '') {
                $cautions[] = "It starts by BIOS there, and the first sector of $disk has no code to start.";
            }
        } catch (UnreadableImage|UnableToRead $unreadable) {
            $cautions[] = "Whether it would start cannot be told: {$unreadable->getMessage()}.";
        }
        $drivers = self::drivers($is, $was, $disk, $kernel);

        return $drivers === null ? $cautions : [...$cautions, $drivers];
    }

    private static function drivers(MachineSettings $is, ?MachineSettings $was, string $disk, ?KernelDrivers $kernel): ?string
    {
        [$bus, $now] = [$was?->disk($disk)?->bus, $is->disk($disk)?->bus];
        $missing = $now === null ? [] : $kernel?->missing($now, $is->firmware);
        if ($missing === null) {
            return $bus === null || $now === null || $bus === $now
                ? null
                : "$disk is connected by {$now->value} there, and was by {$bus->value}: its system must have drivers for that.";
        }

        return $missing === [] ? null : "$disk is connected by {$now?->value} there, and the kernel {$kernel?->version} has no ".
            implode(', ', $missing).', built in or in its initramfs: it would not find its disk. Have that made with it before, or choose '.
            'another way to connect it.';
    }

    private static function hasLoader(MachineTree $tree, string $disk): bool
    {
        foreach ($tree->volumes() as $volume) {
            if ($volume->disk === $disk && $volume->files !== null && str_starts_with($volume->files->type(), 'FAT')) {
                if (UefiLoader::isOn($volume->files)) {
                    return true;
                }
            }
        }

        return false;
    }
}
