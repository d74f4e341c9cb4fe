<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Disks\KernelDrivers;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Sets\ReadingPlan;
use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\RecordedCard;
use Kaiseki\Core\Metal\SentTree;
use Kaiseki\Core\Volume\FileSystem;

/**
 * Where a machine comes from that is brought onto other disks: images of its own disks, or what it sent of itself. Whatever cannot be
 * read throws CannotBring, or what the reading of archives and images throws.
 */
interface MetalSource
{
    /** How its disks were laid out; the one that it starts from first, as firmware does. */
    public function record(): LayoutRecord;

    /**
     * From now on only what these disks need is read.
     *
     * @param  list<string>  $disks
     */
    public function only(array $disks): void;

    /** @throws \App\Sets\CannotPlan if what may be read does not suffice */
    public function reading(): ReadingPlan;

    /** @return list<string> what of it cannot be given back, in sentences */
    public function blockers(): array;

    /** @return list<string> what will not come, though nothing is lost, in sentences */
    public function cautions(): array;

    /** @return list<string> what it needs once it has started from its own disks, in sentences */
    public function next(): array;

    /** A disk, or so much of it as lies before its first partition. */
    public function disk(string $name): Disk;

    /**
     * @param  string  $volume  as below
     * @param  int  $bytes  that it has
     * @return iterable<string> of what comes byte by byte, from its beginning
     */
    public function image(string $volume, int $bytes): iterable;

    /**
     * @param  string  $volume  as "sda.2", "sdb" of a disk without a table, or "harbour-root" of a volume group
     * @param  array<string, string>  $cards  that get other names there, as NamedCards takes them
     */
    public function tree(string $volume, array $cards = []): SentTree;

    /** @return iterable<string> lines of a sheet for a person, who does the same with ordinary tools in an empty folder */
    public function handSheet(LayoutPlan $plan): iterable;

    /** @return list<RecordedCard> its network cards, in their order; none where that is not known */
    public function cards(): array;

    /** What lies on a partition from which a firmware may start, to be looked into now; null if it cannot be. */
    public function startingFiles(string $key, int $bytes): ?FileSystem;

    /** What starts from a disk, and with which drivers; null if that is not known. */
    public function kernel(string $disk): ?KernelDrivers;

    /** @return array<string, string> file by which it is told from another => what it holds there */
    public function answers(?Answer $answer): array;
}
