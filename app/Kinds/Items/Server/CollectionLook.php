<?php

declare(strict_types=1);

namespace App\Kinds\Items\Server;

use Kaiseki\Core\Mail\Calendar\CalendarObject;
use Kaiseki\Core\Mail\Contact\ContactCard;
use Kaiseki\Core\Mail\Dav\DavEntry;
use Kaiseki\Core\Mail\ItemSort;

/** What lies in a collection of a server already: by its UID, and by what it says. */
final class CollectionLook
{
    /** @var array<string, DavEntry> UID => entry */
    private array $byUid = [];

    /** @var array<string, string> path => identity */
    private array $identities = [];

    /** @param  list<DavEntry>  $entries */
    public function __construct(public readonly ItemSort $holds, array $entries)
    {
        foreach ($entries as $entry) {
            $uid = self::uidOf($entry->bytes, $holds);
            if ($uid !== '') {
                $this->byUid[$uid] ??= $entry;
            }
            $this->identities[$entry->href] = $holds->identityOf($entry->bytes);
        }
    }

    public static function uidOf(string $bytes, ItemSort $holds): string
    {
        return $holds === ItemSort::Contact ? ContactCard::of($bytes)->uid() : CalendarObject::of($bytes)->uid();
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
        return in_array($identity, $this->identities, true);
    }

    public function has(string $href): bool
    {
        return isset($this->identities[$href]);
    }
}
