<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Disks\KernelDrivers;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\ImageHandSheet;
use App\Kinds\Machines\Order\ImagePlan;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Kinds\Machines\Run\WhoAnswers;
use App\Sets\Points;
use App\Sets\ReadingOfSets;
use App\Sets\SetOutline;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Metal\GroupReading;
use Kaiseki\Core\Metal\ImageSheet;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Metal\SentTree;
use Kaiseki\Core\Metal\VolumeToSend;
use Kaiseki\Core\UnableToRead;
use Kaiseki\Core\Volume\FileSystem;

/** A machine whose sets are images of its disks. */
final class FromImages implements MetalSource
{
    /** Bytes that are read of a disk at a time. */
    private const AT_ONCE = 1 << 20;

    private PlannedDisks $planned;

    public function __construct(
        private readonly Points $points,
        private readonly SetOutline $point,
        private readonly CopyRule $copies,
    ) {
        $this->only(array_map(strval(...), array_keys(ImagePlan::disksOf($points, $point))));
    }

    public function only(array $disks): void
    {
        $this->planned = new PlannedDisks($this->points, $this->point, $disks, $this->copies);
    }

    public function record(): LayoutRecord
    {
        $disks = [];
        foreach (array_keys(ImagePlan::disksOf($this->points, $this->point)) as $name) {
            try {
                $disk = DiskOfPoint::of($this->points, $this->point, (string) $name, $this->copies);
                $disk === null || $disks[$name] = $disk->disk();
            } catch (UnreadableImage|UnableToRead $unreadable) {
                throw $this->unread((string) $name, $unreadable);
            }
        }
        try {
            return $disks === [] ? throw CannotBring::because("{$this->point->name} has no disk.") : GroupReading::of($disks);
        } catch (UnreadableImage $unreadable) {
            throw $this->unread(implode(', ', array_keys($disks)), $unreadable);
        }
    }

    private function unread(string $disk, UnreadableImage|UnableToRead $because): CannotBring
    {
        return CannotBring::because("How $disk was laid out cannot be read at {$this->point->name}: {$because->getMessage()}.");
    }

    public function reading(): ReadingOfSets
    {
        return $this->planned->reading();
    }

    public function blockers(): array
    {
        return $this->planned->blockers(false);
    }

    public function cautions(): array
    {
        return [];
    }

    public function next(): array
    {
        return ['Restore its data from sets of its own, where there are newer ones; then have a full made of it.'];
    }

    public function disk(string $name): Disk
    {
        return $this->planned->disks[$name]->disk();
    }

    public function image(string $volume, int $bytes): iterable
    {
        $from = $this->planned->tree()->volumes()[$volume]->partition ?? throw CannotBring::because("$volume is not there.");
        for ($at = 0; $at < $bytes; $at += strlen($read)) {
            $read = $from->read($at, min(self::AT_ONCE, $bytes - $at));
            $read !== '' || throw CannotBring::because("$volume ends before its end.");
            yield $read;
        }
    }

    public function tree(string $volume, array $cards = []): SentTree
    {
        $files = $this->planned->tree()->volumes()[$volume]->files ?? throw CannotBring::because("$volume cannot be looked into.");

        return new VolumeToSend($files);
    }

    public function handSheet(LayoutPlan $plan): iterable
    {
        $disks = array_map(fn (PlannedDisk $disk): string => $disk->was->name, $plan->disks);
        yield rtrim(ImageHandSheet::script($this->points, $this->point, '', $disks), "\n");
        yield from (new ImageSheet($plan, $this->points->workload->name))->lines();
    }

    public function cards(): array
    {
        return [];
    }

    public function startingFiles(string $key, int $bytes): ?FileSystem
    {
        return $this->planned->tree()->volumes()[$key]->files ?? null;
    }

    public function kernel(string $disk): ?KernelDrivers
    {
        return KernelDrivers::starting($this->points->model($this->point), $disk);
    }

    public function answers(?Answer $answer): array
    {
        return WhoAnswers::wanted($answer, $this->planned->tree());
    }
}
