<?php

declare(strict_types=1);

namespace App\Kinds\Items\Server;

use Kaiseki\Core\Mail\Dav\DavEntry;
use Kaiseki\Core\Mail\ItemSort;

/** What lies in a collection of a server already: by its UID, and by what it says. */
final class CollectionLook
{
    /** @var array<string, DavEntry> UID => entry */
    private array $byUid = [];

    /** @var array<string, string> path => identity */
    private array $identities = [];

    /** @var array<string, true> identities */
    private array $said = [];

    /** @param  list<DavEntry>  $entries */
    public function __construct(ItemSort $holds, array $entries)
    {
        foreach ($entries as $entry) {
            $read = $holds->read($entry->bytes);
            $uid = $read->uid();
            if ($uid !== '') {
                $this->byUid[$uid] ??= $entry;
            }
            $identity = $read->identity();
            $this->identities[$entry->href] = $identity;
            $this->said[$identity] = true;
        }
    }

    /** What is there under a UID, whatever it says. */
    public function of(string $uid): ?DavEntry
    {
        return $uid === '' ? null : $this->byUid[$uid] ?? null;
    }

    /** Null if nothing is there under it. */
    public function identityAt(string $href): ?string
    {
        return $this->identities[$href] ?? null;
    }

    public function holds(string $identity): bool
    {
        return isset($this->said[$identity]);
    }

    public function has(string $href): bool
    {
        return isset($this->identities[$href]);
    }
}
