<?php

declare(strict_types=1);

namespace App\Stores;

use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Tape\TapeSegment;

/** Something that holds copies: a folder, an object store, a tape library. */
interface CopyStore
{
    /**
     * Why it does not answer, in words that follow its name; null if it does.
     *
     * @param  bool  $now  ask it, and believe nothing that was known before
     */
    public function silence(bool $now = false): ?string;

    /**
     * How a copy that was registered as readable is now, as far as can be told without reading it.
     *
     * @param  list<TapeSegment>  $segments
     */
    public function look(string $path, int $bytes, array $segments = []): CopyLook;

    /**
     * The archive of a copy, to be read from any offset.
     *
     * @throws UnreadableArchive
     */
    public function open(StoredCopy $copy): ArchiveFile;

    /**
     * The bytes of a copy from an offset on.
     *
     * @throws UnreadableArchive
     */
    public function raw(StoredCopy $copy, int $offset = 0): RawBytes;

    /**
     * Writes a file to it under a path, and compares.
     *
     * @throws UnableToStore
     */
    public function add(string $path, string $file): StoredCopy;

    /**
     * Gives a file of it another name in the same folder.
     *
     * @throws UnableToStore
     */
    public function rename(string $from, string $to): void;

    /**
     * Deletes a file; one that is not there is as good as deleted.
     *
     * @throws UnableToStore
     */
    public function delete(string $path): void;

    /** Ends what was attached for reading. */
    public function release(): void;
}
