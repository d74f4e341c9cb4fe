<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\UnableToWrite;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\UnreadableVolume;

/** The kernels on the volumes of a machine, and what each would start with. */
final class KernelSearch
{
    private const MOST_KERNELS = 20;

    private const LARGEST_LIST = 1 << 20;

    private const KERNEL = '/^vmlinuz-([0-9][A-Za-z0-9._+~-]{0,99})$/D';

    /** What the initramfs of one is called, by the distributions that are common. */
    private const INITRAMFS = ['initrd.img-%s', 'initramfs-%s.img', 'initrd-%s', 'initramfs-%s'];

    /** Of a module's path, where those are that disks are found by. */
    private const DRIVERS =
        '~(?:^|/)kernel/drivers/(?:ata|block|nvme|scsi|virtio|message|usb/storage)/(?:.+/)?([^/]+)\.ko(?:\.[a-z0-9]+)?$~D';

    /**
     * @param  list<DiskFiles>  $volumes  of the machine, that can be looked into
     * @param  list<KernelDrivers>  $known  that were looked into before: an initramfs with the same mark is not read again
     */
    public function __construct(private readonly array $volumes, private readonly array $known)
    {
    }

    /**
     * @return list<KernelDrivers>
     */
    public function find(): array
    {
        $found = [];
        foreach ($this->volumes as $volume) {
            try {
                foreach (['', 'boot'] as $folder) {
                    array_push($found, ...$this->in($volume, $folder));
                }
            } catch (UnreadableVolume|UnreadableImage) {
                continue; // that it cannot be looked into is told with the volume
            }
        }

        return array_slice($found, 0, self::MOST_KERNELS);
    }

    /** @return list<KernelDrivers> */
    private function in(DiskFiles $volume, string $folder): array
    {
        $files = $volume->files;
        $at = $folder === '' ? $files->root() : $files->child($files->root(), $folder);
        if ($at === null || $at->version->kind !== EntryKind::Folder) {
            return [];
        }
        $there = [];
        foreach ($files->children($at) as $name => $file) {
            $there[(string) $name] = $file;
        }
        $found = [];
        foreach (array_keys($there) as $name) {
            if (preg_match(self::KERNEL, (string) $name, $kernel) === 1) {
                $found[] = $this->kernel($volume, $kernel[1], $there);
            }
        }

        return $found;
    }

    /** @param  array<array-key, FoundFile>  $there  what lies beside the kernel */
    private function kernel(DiskFiles $volume, string $version, array $there): KernelDrivers
    {
        $initramfs = null;
        foreach (self::INITRAMFS as $called) {
            $initramfs ??= $there[sprintf($called, $version)] ?? null;
        }
        $mark = $initramfs === null ? 'none' : "{$initramfs->node} {$initramfs->version->size} {$initramfs->version->mtime}";
        foreach ($this->known as $one) {
            if ($one->version === $version && $one->disk === $volume->disk && $one->mark === $mark && $one->unread === null) {
                return $one;
            }
        }
        $unread = null;
        $names = $this->builtIn($version);
        try {
            $content = $initramfs === null ? [] : $volume->files->content($initramfs);
            array_push($names, ...$initramfs === null ? [] : Initramfs::names($content));
        } catch (UnreadableVolume|UnreadableImage|UnableToWrite $failure) {
            $unread = "its initramfs {$failure->getMessage()}";
        }

        return new KernelDrivers($version, $volume->disk, $mark, self::modules($names), $unread);
    }

    /** @return list<string> paths of modules that are in the kernel itself, from whichever volume has them */
    private function builtIn(string $version): array
    {
        foreach ($this->volumes as $volume) {
            foreach (['lib/modules', 'usr/lib/modules', 'modules'] as $folder) {
                $file = self::at($volume, "$folder/$version/modules.builtin");
                if ($file !== null && $file->version->size <= self::LARGEST_LIST) {
                    return explode("\n", implode('', [...$volume->files->content($file)]));
                }
            }
        }

        return [];
    }

    private static function at(DiskFiles $volume, string $path): ?FoundFile
    {
        $file = $volume->files->root();
        foreach (explode('/', $path) as $part) {
            $file = $file?->version->kind === EntryKind::Folder ? $volume->files->child($file, $part) : null;
        }

        return $file;
    }

    /**
     * @param  list<string>  $paths
     * @return list<string> as the kernel names them, which knows no dashes
     */
    private static function modules(array $paths): array
    {
        $modules = [];
        foreach ($paths as $path) {
            if (preg_match(self::DRIVERS, $path, $found) === 1) {
                $modules[strtr($found[1], '-', '_')] = true;
            }
        }
        ksort($modules);

        return array_map(strval(...), array_keys($modules));
    }
}
