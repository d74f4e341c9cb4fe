<?php

declare(strict_types=1);

namespace App\Stores;

/** The folder of a store of ours: what lies in it is what others lost, or must not read. */
final class ClosedFolder
{
    /**
     * Closes it to everybody else.
     *
     * @return string|null what a person should know of it; null if it was closed already
     *
     * @throws UnableToStore if it cannot be closed
     */
    public static function mend(string $folder): ?string
    {
        clearstatcache(true, $folder);
        $mode = @fileperms($folder);
        if ($mode === false || ($mode & 0077) === 0) {
            return null;
        }
        @chmod($folder, $mode & 0700);
        clearstatcache(true, $folder);
        if ((((int) @fileperms($folder)) & 0077) !== 0) {
            throw UnableToStore::because(
                "others can read what is in $folder, and that cannot be changed from here: mount it so that only this account may enter it",
            );
        }

        return "Others could read what is in $folder: it was closed to them.";
    }

    /** Of a folder that is not ours to change: whether others can read it. */
    public static function isOpen(string $folder): bool
    {
        return (((int) @fileperms($folder)) & 0055) !== 0;
    }
}
