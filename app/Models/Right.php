<?php

declare(strict_types=1);

namespace App\Models;

/** What somebody may do with a target; each is given for itself. */
enum Right: string
{
    /** What lies there may be read: copies of a store, folders of a host, checks and questions of a server. */
    case Read = 'read';
    /** Orders may bring something there; sets and copies may be written to it. */
    case Write = 'write';
    /** Its cartridges are moved, and it is settled how it is read back and what is kept there. */
    case Tend = 'tend';

    /**
     * @param  list<self>  $rights
     * @return string "read, write", or "nothing"
     */
    public static function words(array $rights): string
    {
        return $rights === [] ? 'nothing' : implode(', ', array_map(fn (self $right): string => $right->value, $rights));
    }
}
