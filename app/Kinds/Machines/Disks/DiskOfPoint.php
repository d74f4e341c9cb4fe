<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Sets\CopyOutline;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Stores\StoredCopy;
use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Machine\BlockList;
use Kaiseki\Core\Machine\BlockReading;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\BlockState;
use Kaiseki\Core\Machine\CheckedDisk;
use Kaiseki\Core\Machine\DiskCopy;
use Kaiseki\Core\Machine\Layer;
use Kaiseki\Core\Machine\PlannedBlock;
use Kaiseki\Core\Machine\PointOfDisk;
use Kaiseki\Core\Machine\UnreadableImage;

/** One disk at one point: which sets give its blocks, and from which copies they are read. */
final class DiskOfPoint
{
    private const NOWHERE = -1;

    /** @var array<int, list<Layer>> set id => its image, from each copy that can be read, as far as they were opened */
    private array $images = [];

    /** @var array<int, BlockList> set id => what it has of the disk; each is compared with its own digest when it is opened, once */
    private array $lists = [];

    private ?PointOfDisk $plan = null;

    /** @var array<string, array{int, int, int}>|null see lost() */
    private ?array $lost = null;

    /** @var array<string, string> digest => bytes, of blocks that were found elsewhere; a few */
    private array $found = [];

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
        return $this->plan ??= new PointOfDisk(array_map($this->list(...), $this->chain), $this->hasBottom);
    }

    /** @throws \Kaiseki\Core\UnableToRead */
    private function list(SetOutline $set): BlockList
    {
        return $this->lists[$set->id] ??= BlockList::open(BlockFiles::of($set->id, $this->partOf($set)));
    }

    /** @return array<int, string> level => name, of the sets of its chain of which no copy can be read */
    public function unreadable(): array
    {
        $names = [];
        foreach ($this->chain as $level => $set) {
            if ($this->copies($set) === []) {
                $names[$level] = $set->name;
            }
        }

        return $names;
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

    /**
     * The images of a set, from one copy after the other.
     *
     * @return iterable<Layer>
     */
    private function images(SetOutline $set): iterable
    {
        $format = DiskFacts::ofSet($this->points->model($set))[$this->disk]->format ?? 'raw';
        foreach ($this->copies($set) as $i => $copy) {
            try {
                yield $this->images[$set->id][$i] ??= ImageOf::format($format, $this->bytes($copy));
            } catch (UnreadableImage|UnreadableArchive) {
                continue; // the next copy
            }
        }
    }

    private function bytes(CopyOutline $copy): RawBytes
    {
        return $this->points->stores->of($copy->store)->raw(new StoredCopy($copy->path, $copy->bytes, $copy->segments, $copy->gzipped));
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
        $layers = [];
        foreach ($this->chain as $level => $set) {
            foreach ($this->images($set) as $image) {
                $layers[$level] = $image;
                break;
            }
        }

        return $layers;
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
        return new CheckedDisk($this->plan(), $this->reading());
    }

    /** Reads its blocks, each compared with its digest. */
    public function reading(): BlockReading
    {
        return new BlockReading($this->layers(), $this->elsewhere(...));
    }

    /** How many blocks nobody can give back: those of sets that cannot be read, of which no other set holds the same. */
    public function lostBlocks(): int
    {
        if ($this->unreadable() === [] && $this->hasBottom) {
            return 0;
        }
        $blocks = 0;
        foreach ($this->lost() as [$count, $set]) {
            $blocks += $set === self::NOWHERE ? $count : 0;
        }

        return $blocks;
    }

    /**
     * What the sets that cannot be read would have given, gone through once however many blocks that are.
     *
     * @return array<string, array{int, int, int}> digest, '' for what nobody knows => how many blocks of the point are so, the id of a set
     *     that holds the same or NOWHERE, and which of its blocks
     */
    private function lost(): array
    {
        if ($this->lost !== null) {
            return $this->lost;
        }
        $unreadable = $this->unreadable();
        $this->lost = [];
        foreach ($this->plan()->pieces() as [, , $blocks]) {
            foreach ($blocks as $block) {
                if (! $block->isKnown() || isset($unreadable[$block->level])) {
                    $digest = $block->isKnown() ? $block->digest : '';
                    $this->lost[$digest] = [($this->lost[$digest][0] ?? 0) + 1, self::NOWHERE, 0];
                }
            }
        }
        foreach ($this->lost === [] ? [] : $this->others() as [$set, $list]) {
            foreach ($list->runs() as $run) {
                if ($run->state === BlockState::Here && ($this->lost[$run->digest][1] ?? 0) === self::NOWHERE) {
                    $this->lost[$run->digest] = [$this->lost[$run->digest][0], $set->id, $run->number];
                }
            }
        }

        return $this->lost;
    }

    /**
     * The bytes of a block from a further copy of its set, or from any set of the workload that holds a block of the same digest.
     */
    private function elsewhere(PlannedBlock $block): ?string
    {
        if (isset($this->found[$block->digest])) {
            return $this->found[$block->digest];
        }
        [, $set, $number] = $this->lost()[$block->digest] ?? [0, self::NOWHERE, 0];
        $bytes = $set === self::NOWHERE ? null : $this->right($this->points->sets[$set], $number, $block->digest);
        foreach ($bytes !== null ? [] : $this->others() as [$set, $list]) {
            foreach ($list->runs() as $run) {
                if ($bytes === null && $run->digest === $block->digest && $run->state === BlockState::Here) {
                    $bytes = $this->right($set, $run->number, $block->digest);
                }
            }
        }
        if ($bytes !== null) {
            $this->found = array_slice($this->found, -63, null, true) + [$block->digest => $bytes];
        }

        return $bytes;
    }

    /** A block of a set, from the first of its copies that has it right. */
    private function right(SetOutline $set, int $number, string $digest): ?string
    {
        foreach ($this->images($set) as $image) {
            $bytes = self::read($image, $number);
            if ($bytes !== null && Blocks::digest($bytes) === $digest) {
                return $bytes;
            }
        }

        return null;
    }

    private static function read(Layer $image, int $number): ?string
    {
        try {
            $all = '';
            foreach ($image->read($number * Blocks::BYTES, Blocks::BYTES) as [, $bytes]) {
                $all .= $bytes;
            }

            return $all;
        } catch (UnreadableImage|UnreadableArchive) {
            return null;
        }
    }

    /**
     * All sets of the workload that hold something of the disk and can be read, those of the chain too: further copies count.
     *
     * @return iterable<array{SetOutline, BlockList}>
     */
    private function others(): iterable
    {
        foreach ($this->points->sets as $set) {
            if (in_array($this->disk, $set->parts, true) && $this->copies($set) !== []) {
                yield [$set, $this->list($set)];
            }
        }
    }
}
