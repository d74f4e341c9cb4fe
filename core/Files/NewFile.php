<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\ContentSink;

/** A new file of a target, while its content comes in. */
interface NewFile extends ContentSink
{
    /**
     * Gives it what the archive holds beyond mode, owner and time, where the target can take it.
     *
     * @param  array<string, string>  $extended  see TarEntry::$extended
     * @return list<string> names of attributes that it does not take
     */
    public function extend(array $extended): array;

    /**
     * Ends it: mode, owner and time.
     *
     * @param  int  $mtime  nanoseconds since 1970
     *
     * @throws UnableToRestore
     */
    public function finish(int $mode, int $uid, int $gid, int $mtime, bool $owner): void;
}
