<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** A folder of some host and what lies below it, looked at by paths that cannot leave it; '' is the folder itself. */
interface Look
{
    /** The folder in words: its path, with the host where it is not this machine. */
    public function label(): string;

    /** Null if nothing stands there, or if a folder on the way is a link or none. */
    public function status(string $path): ?Status;

    /** @return list<string> what a folder holds, in no order; nothing for what is no folder */
    public function names(string $path): array;

    public function readLink(string $path): string;

    /**
     * The access list of what stands at a path, see AccessList: '' if it has none, null where that cannot be told.
     *
     * @param  bool  $isFolder  whether it is a folder, which has one to hand on too
     */
    public function access(string $path, bool $isFolder): ?string;

    /**
     * Many at once, which is quick where each question takes its time; in the order asked.
     *
     * @param  iterable<array{string, int}>  $asked  path, and what is wanted beside its status (Seen)
     * @return iterable<Seen>
     */
    public function many(iterable $asked): iterable;

    /**
     * Opens a file for reading; null if it is not there, is no regular file, lies behind a link, or may not be read.
     *
     * @return resource|null
     */
    public function read(string $path);

    /**
     * BLAKE2b-256 of a file as it stands there; null if it cannot be read.
     *
     * @param  int|null  $size  where its status was just asked for
     */
    public function digest(string $path, ?int $size = null): ?string;

    /** Bytes that its volume has left; PHP_INT_MAX where nobody can tell. */
    public function freeBytes(): int;

    /** The program that has a file, or one in a folder, open for writing; null if none has, or where that cannot be seen. */
    public function openForWriting(string $path): ?string;

    /** Nanoseconds between two times that the host tells apart. */
    public function timeStep(): int;
}
