<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

use Kaiseki\Core\Catalog\EntryPath;

/**
 * Whose mailbox, and which folder of it, a folder of messages is, told from where it lies; and which collection a calendar's file is of.
 * Both layouts of Maildir in use are known: one folder below the other, and ".Archive.2026" beside "cur" (common practice); and folders
 * of single files of messages.
 */
final class MailLayout
{
    public const INBOX = 'INBOX';

    /** Above the names of collections, so that none is taken for a folder of mail. */
    public const CALENDARS = 'Calendars';

    public const CONTACTS = 'Contacts';

    /** Last parts of a path that say only that mail lies there. */
    private const SAYS_NOTHING = ['maildir', '.maildir', 'mail', 'mdbox', 'mbox'];

    /** Below it some servers keep the collections of each of their people (common practice). */
    private const COLLECTIONS = '~(?:^|/)collection-root/~';

    /** Files of a mail server beside messages: what it knows of them, not one of them. */
    private const OF_SERVER = '/^(dovecot|maildir(size|folder)|subscriptions|courier|\.)/i';

    /** Names of folders of deleted things where the server does not say by RFC 6154 which it is, small letters (common practice). */
    private const DELETED = ['trash', 'deleted', 'deleted items', 'deleted messages', 'bin'];

    /** @param  list<string>  $maildirs  paths of folders that hold "cur" */
    public function __construct(private readonly array $maildirs)
    {
    }

    /** Whether a folder is one in which lies what somebody threw away, by its name. */
    public static function isOfDeletedThings(string $folder): bool
    {
        return in_array(mb_strtolower(basename($folder)), self::DELETED, true);
    }

    /** What the ending of a file says that it holds. */
    public static function sortOf(string $path): ItemSort
    {
        return match (strtolower(pathinfo($path, PATHINFO_EXTENSION))) {
            'ics', 'ical', 'ifb' => ItemSort::Appointment,
            'vcf', 'vcard' => ItemSort::Contact,
            default => ItemSort::Message,
        };
    }

    /** Whether a file may be an item, or hold some, by where it is called what; its content decides. */
    public static function mayHoldItems(string $path): bool
    {
        if (self::sortOf($path) !== ItemSort::Message) {
            return ! str_contains("/$path", '/.'); // beside collections servers keep what they have worked out, under the same names
        }
        [$folder, $name] = EntryPath::split($path);
        $above = basename($folder);
        if ($above === 'cur' || $above === 'new') {
            return true;
        }

        return $above !== 'tmp' && preg_match(self::OF_SERVER, $name) !== 1 &&
            (preg_match('/\.(eml|mbox|mbx)$/i', $name) === 1 || ! str_contains($name, '.'));
    }

    /**
     * @param  string  $path  of a message's file, or of an mbox
     * @return array{string, string} mailbox and folder, both UTF-8; '' for a mailbox that the path does not tell
     */
    public function placeOf(string $path, bool $isMbox = false): array
    {
        [$folder, $name] = EntryPath::split($path);
        if (in_array(basename($folder), ['cur', 'new'], true)) {
            return $this->inMaildir(EntryPath::split($folder)[0]);
        }
        if ($isMbox) {
            $stem = (string) preg_replace('/\.(mbox|mbx)$/i', '', $name);

            return [self::owner($folder), strcasecmp($stem, self::INBOX) === 0 ? self::INBOX : self::shown($stem)];
        }
        $parts = $folder === '' ? [] : explode('/', $folder);

        return [self::shown(array_shift($parts) ?? ''), $parts === [] ? self::INBOX : self::shown(implode('/', $parts))];
    }

    /**
     * The collection that a file of a calendar or of contacts lies in.
     *
     * @param  bool  $isWhole  whether the file itself is one
     * @return array{string, string} mailbox and folder
     */
    public static function collectionOf(string $path, bool $isWhole): array
    {
        $below = preg_split(self::COLLECTIONS, $path);
        [$folder, $name] = EntryPath::split($below === false ? $path : $below[count($below) - 1]);
        $owner = $folder === '' ? [] : explode('/', $folder);
        $collection = match (true) {
            $isWhole => [pathinfo($name, PATHINFO_FILENAME)],
            count($owner) > 1 => [array_pop($owner)],
            default => [],
        };
        $above = self::sortOf($path) === ItemSort::Contact ? self::CONTACTS : self::CALENDARS;

        return [self::shown(implode('/', $owner)), self::shown(implode('/', [$above, ...$collection]))];
    }

    /** The name of a collection without what stands above all of them. */
    public static function collection(string $folder): string
    {
        foreach ([self::CALENDARS, self::CONTACTS] as $above) {
            if (str_starts_with($folder, "$above/")) {
                return substr($folder, strlen($above) + 1);
            }
        }

        return $folder;
    }

    /** @return array{string, string} */
    private function inMaildir(string $maildir): array
    {
        $last = basename($maildir);
        if (str_starts_with($last, '.') && strlen($last) > 1) {
            $root = EntryPath::split($maildir)[0];

            return [self::owner($root), self::decoded(str_replace('.', '/', substr($last, 1)))];
        }
        $root = $maildir;
        foreach ($this->maildirs as $other) {
            if (strlen($other) < strlen($root) && EntryPath::isWithin($maildir, $other)) {
                $root = $other;
            }
        }
        $below = $root === $maildir ? '' : ltrim(substr($maildir, strlen($root)), '/');

        return [self::owner($root), $below === '' ? self::INBOX : self::decoded($below)];
    }

    /** The mailbox that a folder of mail is: its path without what only says that it is one. */
    private static function owner(string $root): string
    {
        $parts = $root === '' ? [] : explode('/', $root);
        while ($parts !== [] && in_array(strtolower((string) end($parts)), self::SAYS_NOTHING, true)) {
            array_pop($parts);
        }

        return self::shown(implode('/', $parts));
    }

    /** Names of folders lie there in the modified UTF-7 of RFC 3501, section 5.1.3. */
    private static function decoded(string $name): string
    {
        $plain = mb_check_encoding($name, 'ASCII') ? (string) mb_convert_encoding($name, 'UTF-8', 'UTF7-IMAP') : $name;

        return self::shown($plain);
    }

    private static function shown(string $name): string
    {
        return mb_scrub(HeaderWords::clean($name), 'UTF-8');
    }
}
