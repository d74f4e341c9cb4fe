<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Models\Store;
use App\Stores\OpenStores;
use App\Stores\StoredCopy;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Machine\BlockList;
use Kaiseki\Core\Machine\Layer;
use Kaiseki\Core\Machine\UnreadableImage;

/** The image of a disk in one set: where its list of blocks lies, and its copies. With this it is read, and nobody else is asked. */
final readonly class KeptImage
{
    /**
     * @param  int  $set  its id
     * @param  string  $name  of the set
     * @param  string  $blocks  path of its list of blocks
     * @param  string  $format  as ImageOf has it
     * @param  list<array{Store, StoredCopy}>  $copies  that can be read, the nearest first
     */
    public function __construct(
        public int $set,
        public string $name,
        private string $blocks,
        private string $format,
        public array $copies,
    ) {
    }

    /** The same without the copies for which a cartridge would have to be loaded. */
    public function atHand(): self
    {
        $copies = array_values(array_filter($this->copies, fn (array $copy): bool => $copy[1]->segments === []));

        return new self($this->set, $this->name, $this->blocks, $this->format, $copies);
    }

    /** @throws \Kaiseki\Core\UnableToRead if it is gone or damaged */
    public function list(): BlockList
    {
        return BlockList::open($this->blocks);
    }

    /**
     * @param  int  $copy  which one
     * @return Layer|null null where that copy cannot be opened
     */
    public function open(OpenStores $stores, int $copy): ?Layer
    {
        [$store, $stored] = $this->copies[$copy];
        try {
            return ImageOf::format($this->format, $stores->of($store)->raw($stored));
        } catch (UnreadableImage|UnreadableArchive) {
            return null;
        }
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['set' => $this->set, 'name' => $this->name, 'blocks' => $this->blocks, 'format' => $this->format, 'copies' => array_map(
            fn (array $copy): array => [$copy[0]->id, $copy[1]->path, $copy[1]->bytes, $copy[1]->gzipped],
            $this->copies,
        )];
    }

    /**
     * @param  array<string, mixed>  $kept
     * @param  array<int, Store>  $stores  by id
     */
    public static function fromArray(array $kept, array $stores): self
    {
        return new self($kept['set'], $kept['name'], $kept['blocks'], $kept['format'], array_map(
            fn (array $copy): array => [$stores[$copy[0]], new StoredCopy($copy[1], $copy[2], [], $copy[3])],
            $kept['copies'],
        ));
    }
}
