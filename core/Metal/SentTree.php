<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Volume\FoundFile;

/** All files of a file system that is to be made anew, from wherever they come. */
interface SentTree
{
    /** The folder that all of it lies in: its mode, owner and time are those of the file system's top. */
    public function root(): FoundFile;

    /**
     * A folder before what is in it. Of a file under several names the node is the same for all of them.
     *
     * @return iterable<array-key, FoundFile> by path
     *
     * @throws \Kaiseki\Core\Volume\UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public function entries(): iterable;

    /**
     * The content of a file, from its beginning.
     *
     * @return iterable<string>
     *
     * @throws \Kaiseki\Core\Volume\UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public function content(FoundFile $file): iterable;
}
