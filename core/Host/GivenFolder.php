<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\UnableToRestore;

/** The folder that a process of a host was given by root. Nothing outside it is opened. */
final readonly class GivenFolder
{
    /**
     * @param  string  $root  absolute
     * @param  int  $keep  seconds for which what was removed or set aside stays, whatever anybody says
     */
    public function __construct(private string $root, private int $keep)
    {
    }

    /** To make it if only its last part is missing, and to look at it though it may not be there. */
    public const MAKE = 'make';

    public const LOOK = 'look';

    /**
     * @param  string  $how  one of these, or nothing
     *
     * @throws UnableToRestore if it does not lie in it, or cannot be opened
     */
    public function open(string $folder, string $how): GuardedFolder
    {
        $root = $this->root;
        if (GuardedFolder::isOfRemoved($folder)) {
            throw UnableToRestore::targetUnfit($folder, 'what was removed stays as it is until its time is over');
        }
        FolderBelow::partsBetween($root, $folder);
        $below = match (true) {
            $how === self::LOOK || $folder === $root => FolderBelow::open($root),
            $how === self::MAKE => FolderBelow::make($folder, $root),
            default => FolderBelow::open($folder, $root),
        };

        return new GuardedFolder($below, FolderBelow::open($root), $this->keep);
    }
}
