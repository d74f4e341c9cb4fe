<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** What a name stands for, as one letter. */
enum EntryKind: string
{
    case File = 'f';
    case Folder = 'd';
    case Symlink = 'l';
    /** Another name of a file of the same archive; only in archives, in trees it is a File with a link group. */
    case HardLink = 'h';
    case Fifo = 'p';
    case CharacterDevice = 'c';
    case BlockDevice = 'b';
    /** Named by a folder record as unchanged, but never stored: it was excluded from the sets before. */
    case Excluded = 'x';
    /** Named by a folder record as stored, but not in the archive: a socket, or gone while the set was made. */
    case NotStored = 'n';
}
