<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** What somebody said of how disks are laid out; what was not said is proposed. */
final readonly class LayoutWish
{
    /**
     * @param  array<string, string>  $onto  disk as it was called => disk of the machine
     * @param  list<string>  $without  disks that are not brought: what stands there stays as it is
     * @param  array<string, int>  $sizes  "DISK.PARTITION" => bytes
     */
    public function __construct(public array $onto = [], public array $without = [], public array $sizes = [])
    {
    }
}
