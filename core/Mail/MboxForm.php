<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/**
 * The forms of mbox that RFC 4155, appendix A, says not to be told apart by name: by how a line of a message that begins with "From " is
 * kept from being taken for the next message (common practice).
 */
enum MboxForm: string
{
    /** ">" before such a line; one that had a ">" already cannot be told from it. */
    case Once = 'mboxo';
    /** ">" before such a line, however many it had already. */
    case Each = 'mboxrd';
    /** The length of each message stands in its headers, and such lines have a ">" as well. */
    case Counted = 'mboxcl';
    /** The length of each message stands in its headers, and such lines stand as they are. */
    case OnlyCounted = 'mboxcl2';

    public function isCounted(): bool
    {
        return $this === self::Counted || $this === self::OnlyCounted;
    }

    /** A message as it was before it was laid in the file. */
    public function unquoted(string $stored): string
    {
        return match ($this) {
            self::OnlyCounted => $stored,
            self::Each => (string) preg_replace('/^>(>*From )/m', '$1', $stored),
            self::Once, self::Counted => (string) preg_replace('/^>From /m', 'From ', $stored),
        };
    }

    /** The same in words. */
    public function words(): string
    {
        return match ($this) {
            self::Once => 'lines that begin with "From " have a ">" before them, those with ">From " look the same',
            self::Each => 'lines that begin with "From " have a ">" more',
            self::Counted => 'each message says its length, and lines that begin with "From " have a ">" before them',
            self::OnlyCounted => 'each message says its length, and its lines are as they were',
        };
    }
}
