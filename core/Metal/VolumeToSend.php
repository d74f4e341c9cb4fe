<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Volume\FileSystem;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\TreeWalk;

/** The files of a volume, as they lie on it. */
final readonly class VolumeToSend implements SentTree
{
    public function __construct(private FileSystem $files)
    {
    }

    public function root(): FoundFile
    {
        return $this->files->root();
    }

    public function entries(): iterable
    {
        return TreeWalk::below($this->files, $this->files->root());
    }

    public function content(FoundFile $file): iterable
    {
        return $this->files->content($file);
    }
}
