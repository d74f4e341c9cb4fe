<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Kinds\Machines\Order\CannotBring;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\UnableToRead;
use Kaiseki\Core\Volume\FileSystems;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\LogicalVolume;
use Kaiseki\Core\Volume\LogicalVolumes;
use Kaiseki\Core\Volume\Partition;
use Kaiseki\Core\Volume\PartitionTable;
use Kaiseki\Core\Volume\PhysicalVolume;
use Kaiseki\Core\Volume\TreeWalk;
use Kaiseki\Core\Volume\UnreadableVolume;

/** The files inside a machine: its volumes, and what lies on each, read as it is asked for. */
abstract class VolumeTree
{
    /** @var array<array-key, VolumeOfPoint>|null */
    private ?array $volumes = null;

    /**
     * @return iterable<array-key, Disk> by name
     *
     * @throws UnableToRead
     */
    abstract protected function disks(): iterable;

    /** What its machine is called for people. */
    abstract protected function name(): string;

    /**
     * @return array<array-key, VolumeOfPoint> by name
     *
     * @throws UnableToRead if a list of blocks is gone
     */
    final public function volumes(): array
    {
        if ($this->volumes === null) {
            $found = [];
            foreach ($this->disks() as $name => $disk) {
                array_push($found, ...self::onDisk((string) $name, $disk));
            }
            $this->volumes = array_column([...$found, ...self::logical($found)], null, 'name');
        }

        return $this->volumes;
    }

    /**
     * @return list<DiskFiles> those that can be looked into
     *
     * @throws UnableToRead if a list of blocks is gone
     */
    final public function readable(): array
    {
        $readable = array_map(
            fn (VolumeOfPoint $one): ?DiskFiles => $one->files === null ? null : new DiskFiles($one->disk, $one->files),
            $this->volumes(),
        );

        return array_values(array_filter($readable));
    }

    /**
     * Volumes of LVM that lie on some of those that are no file systems.
     *
     * @param  list<VolumeOfPoint>  $found
     * @return list<VolumeOfPoint>
     */
    private static function logical(array $found): array
    {
        $on = $disks = [];
        foreach ($found as $volume) {
            try {
                $physical = $volume->files === null ? PhysicalVolume::on($volume->partition) : null;
                $physical === null || [$on[], $disks[]] = [$physical, $volume->disk];
            } catch (UnreadableVolume|UnreadableImage) {
                continue; // why it cannot be looked into is told where it lies
            }
        }
        $logical = [];
        foreach (LogicalVolumes::of($on) as $name => $volume) {
            $isRead = $volume instanceof LogicalVolume;
            $partition = new Partition($isRead ? $volume : $on[0]->disk, 0, 0, $isRead ? $volume->size() : 0, 'LVM');
            $logical[] = $isRead
                ? self::onPartition($disks[0], $partition, (string) $name)
                : new VolumeOfPoint((string) $name, $disks[0], $partition, null, "it {$volume->getMessage()}");
        }

        return $logical;
    }

    /** @return list<VolumeOfPoint> */
    private static function onDisk(string $name, Disk $disk): array
    {
        try {
            $partitions = PartitionTable::of($disk);
        } catch (UnreadableImage $unreadable) {
            $whole = new Partition($disk, 0, 0, $disk->size());

            return [new VolumeOfPoint($name, $name, $whole, null, "its image {$unreadable->getMessage()}")];
        }

        return array_map(fn (Partition $partition): VolumeOfPoint => self::onPartition($name, $partition), $partitions);
    }

    /** @param  string|null  $name  of a volume that is no partition */
    private static function onPartition(string $disk, Partition $partition, ?string $name = null): VolumeOfPoint
    {
        $name ??= $partition->number === 0 ? $disk : "$disk.{$partition->number}";
        try {
            $files = FileSystems::on($partition);
            if ($files === null && PhysicalVolume::on($partition) !== null) {
                $because = 'a part of an LVM volume group, whose volumes stand by themselves';

                return new VolumeOfPoint($name, $disk, $partition, null, $because);
            }

            return new VolumeOfPoint(
                $name,
                $disk,
                $partition,
                $files,
                $files === null ? 'no file system that is read, which are '.FileSystems::READ : null,
            );
        } catch (UnreadableVolume|UnreadableImage $unreadable) {
            return new VolumeOfPoint($name, $disk, $partition, null, "it {$unreadable->getMessage()}");
        }
    }

    /**
     * @param  string  $path  without a leading slash; its first part is the volume
     * @return array{VolumeOfPoint, FoundFile, string} and its path on the volume
     *
     * @throws CannotBring if there is none
     * @throws UnableToRead if a list of blocks is gone
     */
    final public function find(string $path): array
    {
        [$first, $rest] = [...explode('/', $path, 2), ''];
        $volume =
            $this->volumes()[$first] ??
            throw CannotBring::because(
                "{$this->name()} has no volume \"".
                    Shown::name($first).
                    '". It has: '.
                    implode(', ', array_keys($this->volumes())).
                    '.',
            );
        if ($volume->files === null) {
            throw CannotBring::because("{$volume->name} cannot be looked into: {$volume->because}.");
        }
        try {
            $file = $volume->files->root();
            foreach ($rest === '' ? [] : explode('/', $rest) as $part) {
                $file =
                    $volume->files->child($file, $part) ??
                    throw CannotBring::because("{$this->name()} has no \"/".Shown::name($path).'".');
            }
        } catch (UnreadableVolume|UnreadableImage $unreadable) {
            throw CannotBring::because("The volume {$volume->name} {$unreadable->getMessage()}.");
        }

        return [$volume, $file, $rest];
    }

    /**
     * A file, or a folder with all that is in it.
     *
     * @return iterable<string, FoundFile> path, as find() takes it => what it is; a folder before what is in it
     *
     * @throws CannotBring
     */
    final public function below(string $path): iterable
    {
        if ($path === '') {
            foreach ($this->volumes() as $volume) {
                if ($volume->files !== null) {
                    yield from $this->below($volume->name);
                }
            }

            return;
        }
        [$volume, $file] = $this->find($path);
        try {
            yield $path => $file;
            if ($file->version->kind === EntryKind::Folder && $volume->files !== null) {
                yield from TreeWalk::below($volume->files, $file, $path);
            }
        } catch (UnreadableVolume|UnreadableImage $unreadable) {
            throw CannotBring::because("The volume {$volume->name} {$unreadable->getMessage()}.");
        }
    }
}
