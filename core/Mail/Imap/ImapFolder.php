<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Imap;

/** A folder of a mailbox, as a server lists it. */
final readonly class ImapFolder
{
    /** @param  list<string>  $attributes  such as \Trash (RFC 6154), small letters */
    public function __construct(public string $name, public string $separator, public array $attributes)
    {
    }

    public function isTrash(): bool
    {
        return in_array('\trash', $this->attributes, true);
    }

    /** Whether messages can lie in it. */
    public function isSelectable(): bool
    {
        return ! in_array('\noselect', $this->attributes, true) && ! in_array('\nonexistent', $this->attributes, true);
    }
}
