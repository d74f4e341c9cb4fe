<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\ContentSink;

/** A new file of a target, while its content comes in. */
interface NewFile extends ContentSink
{
    /**
     * Ends it: mode, owner and time.
     *
     * @param  int  $mtime  nanoseconds since 1970
     *
     * @throws UnableToRestore
     */
    public function finish(int $mode, int $uid, int $gid, int $mtime, bool $owner): void;
}
