<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Stores\OpenStores;
use Closure;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Machine\BlockList;
use Kaiseki\Core\Machine\BlockReading;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\BlockState;
use Kaiseki\Core\Machine\CheckedDisk;
use Kaiseki\Core\Machine\Layer;
use Kaiseki\Core\Machine\PlannedBlock;
use Kaiseki\Core\Machine\PointOfDisk;
use Kaiseki\Core\Machine\UnreadableImage;

/** Reads a disk at a point from the images of its sets; a block that its own set cannot give, from whichever else holds the same. */
final class DiskImages
{
    /** Blocks found elsewhere that are kept. */
    private const FOUND = 64;

    /** @var array<int, array<int, Layer|false>> set id => its image, from each copy that was opened; false where it cannot be */
    private array $layers = [];

    /** @var array<int, BlockList> set id => what it has of the disk; each is compared with its own digest when it is opened, once */
    private array $lists = [];

    private ?PointOfDisk $plan = null;

    /** @var array<string, array{int, KeptImage|null, int}>|null see lost() */
    private ?array $lost = null;

    /** @var array<string, string> digest => bytes */
    private array $found = [];

    /**
     * @param  non-empty-list<KeptImage>  $chain  the topmost first
     * @param  bool  $hasBottom  whether the last is a full
     * @param  Closure(): iterable<KeptImage>  $all  of the disk, those of the chain too: further copies count
     */
    public function __construct(
        private readonly array $chain,
        private readonly bool $hasBottom,
        private readonly OpenStores $stores,
        private readonly Closure $all,
    ) {
    }

    /** @throws \Kaiseki\Core\UnableToRead if one of the lists is gone or damaged */
    public function plan(): PointOfDisk
    {
        return $this->plan ??= new PointOfDisk(array_map($this->list(...), $this->chain), $this->hasBottom);
    }

    /** @throws \Kaiseki\Core\UnableToRead */
    private function list(KeptImage $image): BlockList
    {
        return $this->lists[$image->set] ??= $image->list();
    }

    /** @return array<int, string> level => name, of the sets of its chain of which no copy can be read */
    public function unreadable(): array
    {
        $without = array_filter($this->chain, fn (KeptImage $image): bool => $image->copies === []);

        return array_map(fn (KeptImage $image): string => $image->name, $without);
    }

    /** @return list<string> names of sets of its chain that can be read, but only from cartridges */
    public function onlyOnTape(): array
    {
        $far = array_filter($this->chain, fn (KeptImage $image): bool => $image->copies !== [] && $image->atHand()->copies === []);

        return array_values(array_map(fn (KeptImage $image): string => $image->name, $far));
    }

    /**
     * The image of a set, from one copy after the other.
     *
     * @return iterable<Layer>
     */
    private function opened(KeptImage $image): iterable
    {
        foreach (array_keys($image->copies) as $i) {
            $layer = $this->layers[$image->set][$i] ??= $image->open($this->stores, $i) ?? false;
            if ($layer !== false) {
                yield $layer;
            }
        }
    }

    /** @return array<int, Layer> level => image; those that cannot be read are not there */
    public function layers(): array
    {
        $layers = [];
        foreach ($this->chain as $level => $image) {
            foreach ($this->opened($image) as $layer) {
                $layers[$level] = $layer;
                break;
            }
        }

        return $layers;
    }

    /** Reads its blocks, each compared with its digest. */
    public function reading(): BlockReading
    {
        return new BlockReading($this->layers(), $this->elsewhere(...));
    }

    /** The disk as it was, to be looked into. */
    public function disk(): CheckedDisk
    {
        return new CheckedDisk($this->plan(), $this->reading());
    }

    /** How many blocks nobody can give back: those of sets that cannot be read, of which no other set holds the same. */
    public function lostBlocks(): int
    {
        if ($this->unreadable() === [] && $this->hasBottom) {
            return 0;
        }
        $blocks = 0;
        foreach ($this->lost() as [$count, $image]) {
            $blocks += $image === null ? $count : 0;
        }

        return $blocks;
    }

    /**
     * What the sets that cannot be read would have given, gone through once however many blocks that are.
     *
     * @return array<string, array{int, KeptImage|null, int}> digest, '' for what nobody knows => how many blocks of the point are so, an
     *     image that holds the same, and which of its blocks
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
                    $this->lost[$digest] = [($this->lost[$digest][0] ?? 0) + 1, null, 0];
                }
            }
        }
        foreach ($this->lost === [] ? [] : $this->readable() as $image) {
            foreach ($this->list($image)->runs() as $run) {
                $lost = $run->state === BlockState::Here ? $this->lost[$run->digest] ?? null : null;
                if ($lost !== null && $lost[1] === null) {
                    $this->lost[$run->digest] = [$lost[0], $image, $run->number];
                }
            }
        }

        return $this->lost;
    }

    /** @return iterable<KeptImage> */
    private function readable(): iterable
    {
        foreach (($this->all)() as $image) {
            if ($image->copies !== []) {
                yield $image;
            }
        }
    }

    /** The bytes of a block from a further copy of its set, or from any set of the workload that holds a block of the same digest. */
    private function elsewhere(PlannedBlock $block): ?string
    {
        if (isset($this->found[$block->digest])) {
            return $this->found[$block->digest];
        }
        [, $image, $number] = $this->lost()[$block->digest] ?? [0, null, 0];
        $bytes = $image === null ? null : $this->right($image, $number, $block->digest);
        foreach ($bytes !== null ? [] : $this->readable() as $image) {
            foreach ($this->list($image)->runs() as $run) {
                if ($bytes === null && $run->digest === $block->digest && $run->state === BlockState::Here) {
                    $bytes = $this->right($image, $run->number, $block->digest);
                }
            }
        }
        if ($bytes !== null) {
            $this->found = array_slice($this->found, 1 - self::FOUND, null, true) + [$block->digest => $bytes];
        }

        return $bytes;
    }

    /** A block of a set, from the first of its copies that has it right. */
    private function right(KeptImage $image, int $number, string $digest): ?string
    {
        foreach ($this->opened($image) as $layer) {
            $bytes = self::read($layer, $number);
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

    /** @return array<string, mixed> all that is needed to read it, wherever, but from cartridges */
    public function toArray(): array
    {
        $all = [];
        foreach ($this->readable() as $image) {
            $all[$image->set] = $image->atHand()->toArray();
        }

        return [
            'chain' => array_map(fn (KeptImage $image): array => $image->atHand()->toArray(), $this->chain),
            'bottom' => $this->hasBottom,
            'all' => array_values($all),
        ];
    }

    /**
     * @param  array<string, mixed>  $kept
     * @param  array<int, \App\Models\Store>  $stores  by id
     */
    public static function fromArray(array $kept, OpenStores $open, array $stores): self
    {
        $images = fn (array $of): array => array_map(fn (array $one): KeptImage => KeptImage::fromArray($one, $stores), $of);
        $chain = $images($kept['chain']);
        assert($chain !== []);

        return new self($chain, $kept['bottom'], $open, fn (): array => $images($kept['all']));
    }
}
