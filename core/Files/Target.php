<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** A folder of some host that a run writes to, by paths that cannot leave it. */
interface Target extends Look
{
    /** Makes the folder, and those above it, where they are not there yet. */
    public function makeFolder(string $path, int $mode = 0700): void;

    /**
     * Opens a new file for writing; never one that is there, nor through a link.
     *
     * @throws UnableToRestore
     */
    public function createFile(string $path): NewFile;

    /**
     * A new small file, whole; never over one that is there, nor through a link. It may be written a little later, together with others:
     * then settle() tells if it could not be.
     *
     * @param  int  $mtime  nanoseconds since 1970
     *
     * @throws UnableToRestore
     */
    public function putFile(string $path, string $bytes, int $mode, int $uid, int $gid, int $mtime, bool $owner): void;

    /**
     * Waits for small files that are still to be written.
     *
     * @return array<array-key, UnableToRestore> path => why it could not be written, of those of which nobody was told yet
     *
     * @throws UnableToRestore if the target is unfit
     */
    public function settle(): array;

    /** The same folder for a second process; null where there can be none. */
    public function twin(): ?self;

    /** @throws UnableToRestore */
    public function symlink(string $target, string $path): void;

    /**
     * A second name of one file; where the host knows none, a copy.
     *
     * @throws UnableToRestore
     */
    public function hardLink(string $existing, string $path): void;

    /** @throws UnableToRestore also where the host has none */
    public function fifo(string $path): void;

    /**
     * Renames within this folder, replacing nothing: false if something stands at the new name.
     *
     * @throws UnableToRestore
     */
    public function rename(string $from, string $to): bool;

    /** Removes one file, link or empty folder; nothing happens if it is gone. False if it is still there. */
    public function remove(string $path): bool;

    /** Removes the target itself, if nothing is in it. */
    public function removeIfEmpty(): void;

    /** Removes a folder and all below it, following no link. */
    public function removeTree(string $path): void;

    /**
     * Owner before mode: a change of owner takes set-user bits away.
     *
     * @param  int|null  $mode  null leaves it, as for links
     * @param  int  $mtime  nanoseconds since 1970
     * @param  bool  $owner  whether owners are set at all
     */
    public function describe(string $path, ?int $mode, int $uid, int $gid, int $mtime, bool $owner): void;

    /**
     * Gives permissions to a file or folder that stands there, and changes nothing else of it; an access list that says nothing beyond the
     * mode goes. Names in a list whom nobody knows there are left out of it.
     *
     * @param  bool  $owner  whether the owner is set at all
     *
     * @throws UnableToRestore also if it is a link
     */
    public function permit(string $path, Permissions $permissions, bool $owner): void;

    /** Whether owners can be given, and what they are here. */
    public function owners(): Owners;

    /** Waits until all that was written is on the disk, where that can be asked for. */
    public function sync(): void;
}
