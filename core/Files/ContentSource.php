<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** Knows in which archives a content stands. */
interface ContentSource
{
    /**
     * Where the content with this digest can be read, the best first; each verified by the digest when it is read.
     *
     * @param  list<string>  $failed  keys of archives that failed to give it already
     */
    public function placeOf(string $digest, array $failed = []): ?ContentPlace;

    /** Told once for each archive that did not give what it should. */
    public function archiveFailed(string $archiveKey, string $because): void;

    /**
     * Whether two processes can read these archives at the same time: not from a drive.
     *
     * @param  list<string>  $archiveKeys
     */
    public function canBeReadTwice(array $archiveKeys): bool;
}
