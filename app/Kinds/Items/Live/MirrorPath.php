<?php

declare(strict_types=1);

namespace App\Kinds\Items\Live;

use Kaiseki\Core\Catalog\EntryPath;

/** Names that a server gives, as parts of paths below the mirror: none of them leads out of it, or says something else there. */
final class MirrorPath
{
    private const LONGEST = 200;

    /** What has a meaning of its own in a Maildir (common practice). */
    private const MEANT = ['cur', 'new', 'tmp'];

    public static function isMailbox(string $name): bool
    {
        return array_filter(explode('/', $name), fn (string $part): bool => ! self::isPart($part)) === [];
    }

    /** Null for one that no path can be called by. */
    public static function ofFolder(string $mailbox, string $folder): ?string
    {
        $path = self::maildir($mailbox);
        if ($folder === 'INBOX') {
            return $path;
        }
        foreach (explode('/', $folder) as $part) {
            // As names of folders lie on disks: the modified UTF-7 of RFC 3501.
            $coded = (string) mb_convert_encoding($part, 'UTF7-IMAP', 'UTF-8');
            if (! self::isPart($part) || ! self::isPart($coded) || in_array($coded, self::MEANT, true)) {
                return null;
            }
            $path = EntryPath::join($path, $coded);
        }

        return $path;
    }

    public static function maildir(string $mailbox): string
    {
        return "$mailbox/Maildir";
    }

    public static function collections(string $mailbox): string
    {
        return "collection-root/$mailbox";
    }

    /** The name of a file for what a server calls something: that itself, where it is one. */
    public static function file(string $name, string $ending): string
    {
        $isPlain = self::isPart($name) && preg_match('/^[A-Za-z0-9@_][A-Za-z0-9@._-]*$/D', $name) === 1 && str_ends_with($name, ".$ending");

        return $isPlain ? $name : hash('sha256', $name).".$ending";
    }

    public static function isPart(string $part): bool
    {
        return $part !== '' && strlen($part) <= self::LONGEST && mb_check_encoding($part, 'UTF-8') &&
            preg_match('~^[^.\x00-\x1f\x7f/\\\\][^\x00-\x1f\x7f/\\\\]*$~uD', $part) === 1;
    }
}
