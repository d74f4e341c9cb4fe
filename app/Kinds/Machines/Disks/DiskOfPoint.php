<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Sets\CopyOutline;
use App\Sets\Points;
use App\Sets\SetOutline;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Machine\BlockReading;
use Kaiseki\Core\Machine\CheckedDisk;
use Kaiseki\Core\Machine\DiskCopy;
use Kaiseki\Core\Machine\Layer;
use Kaiseki\Core\Machine\PointOfDisk;

/** One disk at one point: which sets give its blocks, and from which copies they are read. */
final class DiskOfPoint
{
    private ?DiskImages $images = null;

    /**
     * @param  non-empty-list<SetOutline>  $chain  sets that hold something of the disk, the point itself or the newest below it first
     */
    private function __construct(
        private readonly Points $points,
        public readonly string $disk,
        public readonly array $chain,
        public readonly bool $hasBottom,
        private readonly CopyRule $rule,
    ) {
    }

    /** Null if the point's machine had no such disk. */
    public static function of(Points $points, SetOutline $point, string $disk, CopyRule $rule = new CopyRule): ?self
    {
        $chain = [];
        $hasBottom = false;
        foreach (array_reverse($points->chain($point->name) ?: [$point]) as $set) {
            $facts = DiskFacts::ofSet($points->model($set))[$disk] ?? null;
            if ($facts === null) {
                break; // it came later than this one
            }
            $chain[] = $set;
            $hasBottom = $facts->isWhole;
            if ($hasBottom) {
                break;
            }
        }

        return $chain === [] ? null : new self($points, $disk, $chain, $hasBottom, $rule);
    }

    /** The number of the part of a set that holds this disk. */
    public function partOf(SetOutline $set): int
    {
        return (int) array_search($this->disk, $set->parts, true);
    }

    /** @throws \Kaiseki\Core\UnableToRead if one of the lists is gone or damaged */
    public function plan(): PointOfDisk
    {
        return $this->images()->plan();
    }

    /** What reads it. */
    public function images(): DiskImages
    {
        return $this->images ??= new DiskImages(
            array_map($this->image(...), $this->chain),
            $this->hasBottom,
            $this->points->stores,
            function (): iterable {
                foreach ($this->points->sets as $set) {
                    if (in_array($this->disk, $set->parts, true)) {
                        yield $this->image($set);
                    }
                }
            },
        );
    }

    private function image(SetOutline $set): KeptImage
    {
        return new KeptImage(
            $set->id,
            $set->name,
            BlockFiles::of($set->id, $this->partOf($set)),
            DiskFacts::ofSet($this->points->model($set))[$this->disk]->format ?? 'raw',
            array_map(fn (CopyOutline $copy): array => [$copy->store, $copy->stored()], $this->copies($set)),
        );
    }

    /** @return array<int, string> level => name, of the sets of its chain of which no copy can be read */
    public function unreadable(): array
    {
        return $this->images()->unreadable();
    }

    /**
     * Copies of the file that holds this disk of a set, those of this site first.
     *
     * @return list<CopyOutline>
     */
    private function copies(SetOutline $set): array
    {
        $part = $this->partOf($set);
        $allowed = $this->rule->among(array_map(fn (CopyOutline $copy) => $copy->copy, $set->copies));
        $copies = array_filter(
            $set->copies,
            fn (CopyOutline $copy): bool => $copy->part === $part && $copy->state->isReadable() && in_array($copy->copy, $allowed, true),
        );
        $site = $this->points->workload->site;
        usort($copies, fn (CopyOutline $a, CopyOutline $b): int => ($b->store->site === $site) <=> ($a->store->site === $site));

        return $copies;
    }

    /** @return array<string, string> set => the store that it is read from */
    public function stores(): array
    {
        $stores = [];
        foreach ($this->chain as $set) {
            $copy = $this->copies($set)[0] ?? null;
            if ($copy !== null) {
                $stores[$set->name] = $copy->store->name;
            }
        }

        return $stores;
    }

    /** @return array<int, Layer> level => image; those that cannot be read are not there */
    public function layers(): array
    {
        return $this->images()->layers();
    }

    /**
     * The disk as it was, to be written.
     *
     * @param  (\Closure(int): void)|null  $progress
     */
    public function copy(?\Closure $progress = null): DiskCopy
    {
        return new DiskCopy($this->plan(), $this->reading(), $progress);
    }

    /** The disk as it was, to be looked into. */
    public function disk(): CheckedDisk
    {
        return $this->images()->disk();
    }

    /** Reads its blocks, each compared with its digest. */
    public function reading(): BlockReading
    {
        return $this->images()->reading();
    }

    /** How many blocks nobody can give back: those of sets that cannot be read, of which no other set holds the same. */
    public function lostBlocks(): int
    {
        return $this->images()->lostBlocks();
    }
}
