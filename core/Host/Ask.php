<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

/** What the desk asks the process of a host. Behind each: what goes with it, and what comes back. */
enum Ask: string
{
    /**
     * Folder, and whether it is made, or only looked at -> whether owners can be given, and what was opened: of a folder that is only
     * looked at, which need not be there, the one that was given around it. The first message of each wire.
     */
    case Open = 'open';

    /** What is wanted (Seen), path, and so on -> five strings of each, as SeenBytes has them. */
    case Many = 'many';

    /** Folder -> names. */
    case Names = 'names';

    /** File -> nothing, and the file itself, open for reading. */
    case Read = 'read';

    /** -> bytes. */
    case Free = 'free';

    /** Path -> who has it open for writing; nothing if nobody. */
    case InUse = 'in use';

    /** Path, mode. */
    case Folder = 'folder';

    /** Path -> number, and the new file itself, open for writing. */
    case Create = 'create';

    /** Number, keyword, value, and so on -> keywords that are not taken. */
    case Extend = 'extend';

    /** Number, size, mode, user, group, time, whether owners are set. */
    case Finish = 'finish';

    /** Number of a file that is not to be ended. */
    case Drop = 'drop';

    /** Path, bytes, mode, user, group, time, whether owners are set, and so on -> number of each that failed, and how. */
    case Put = 'put';

    /** Where it leads, path. */
    case Symlink = 'symlink';

    /** File, path. */
    case HardLink = 'hard link';

    /** Path. */
    case Fifo = 'fifo';

    /** From, to -> whether it was done. */
    case Rename = 'rename';

    /** Path -> whether it is gone. */
    case Remove = 'remove';

    /** Path. */
    case RemoveTree = 'remove tree';

    case RemoveIfEmpty = 'remove if empty';

    /** Path, mode or nothing, user, group, time, whether owners are set. */
    case Describe = 'describe';

    /** Path, mode, user, group, whether owners are set, access list. */
    case Permit = 'permit';

    case Sync = 'sync';
}
