<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use Kaiseki\Core\Volume\FileSystem;

/** Files that lie on a disk, or start from it. */
final readonly class DiskFiles
{
    public function __construct(public string $disk, public FileSystem $files)
    {
    }
}
