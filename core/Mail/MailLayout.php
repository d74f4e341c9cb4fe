<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

use Kaiseki\Core\Catalog\EntryPath;

/**
 * Whose mailbox, and which folder of it, a folder of messages is, told from where it lies. Both layouts of Maildir in use are known: one
 * folder below the other, and ".Archive.2026" beside "cur" (common practice); and folders of single files of messages.
 */
final class MailLayout
{
    public const INBOX = 'INBOX';

    /** Last parts of a path that say only that mail lies there. */
    private const SAYS_NOTHING = ['maildir', '.maildir', 'mail', 'mdbox', 'mbox'];

    /** Files of a mail server beside messages: what it knows of them, not one of them. */
    private const OF_SERVER = '/^(dovecot|maildir(size|folder)|subscriptions|courier|\.)/i';

    /** @param  list<string>  $maildirs  paths of folders that hold "cur" */
    public function __construct(private readonly array $maildirs)
    {
    }

    /** Whether a file may be a message, or hold some, by where it is called what; its content decides. */
    public static function mayHoldMessages(string $path): bool
    {
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
