<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Disks\DiskOfPoint;
use Kaiseki\Core\Machine\BlockReading;
use Kaiseki\Core\Machine\Blocks;

/** What came of one disk. */
final readonly class BroughtDisk
{
    /** Blocks of which it is told that they are missing. */
    private const TOLD = 1000;

    /**
     * @param  int  $size  bytes of the disk
     * @param  int  $written  bytes that were written of it
     * @param  int  $blocks  that were compared with their digests
     * @param  int  $missing  blocks that could not be had
     * @param  list<int>  $missingAt  numbers of the first of them
     * @param  int  $bridged  blocks that came from another set or copy
     * @param  array<string, string>  $read  set => store
     */
    private function __construct(
        public string $name,
        public int $size,
        public int $written,
        public int $blocks,
        public int $missing,
        public array $missingAt,
        public int $bridged,
        public array $read,
    ) {
    }

    /** @param  list<int>  $missingAt */
    public static function of(DiskOfPoint $disk, BlockReading $reading, int $written, int $blocks, int $missing, array $missingAt): self
    {
        $size = $disk->plan()->size();
        $missingAt = array_slice($missingAt, 0, self::TOLD);

        return new self($disk->disk, $size, $written, $blocks, $missing, $missingAt, $reading->bridged, $disk->stores());
    }

    /** @param  array<string, mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        return new self(
            (string) $kept['disk'],
            (int) $kept['size'],
            (int) $kept['data'],
            (int) $kept['blocks'],
            (int) $kept['missing'],
            array_map(fn (mixed $at): int => intdiv((int) $at, Blocks::BYTES), array_values((array) $kept['missing_at'])),
            (int) $kept['bridged'],
            array_map(strval(...), (array) $kept['read']),
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'disk' => $this->name,
            'size' => $this->size,
            'data' => $this->written,
            'blocks' => $this->blocks,
            'bridged' => $this->bridged,
            'missing' => $this->missing,
            'missing_at' => array_map(fn (int $number): int => $number * Blocks::BYTES, $this->missingAt),
            'read' => $this->read,
        ];
    }
}
