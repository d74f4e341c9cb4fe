<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;

/** The permissions that a thing had at a point, beside those of what stands at its place now. */
final readonly class AskedPermissions
{
    public const KEEPS_LIST = 'keeps its access list: the sets of this point do not say whether it had one';

    /** Null if nothing stands there. */
    public ?Permissions $present;

    /** Null if they cannot be given. */
    public ?Permissions $toGive;

    /** Why they cannot be given; null if they can. */
    public ?string $refusal;

    /** Whether what stands there keeps its access list (KEEPS_LIST). */
    public bool $keepsList;

    /** Whether something is lost where they cannot be given. */
    public bool $isLoss;

    /** @param  bool  $knowsLists  see RestoreOrder */
    public function __construct(Version $version, Seen $seen, Owners $owners, bool $knowsLists)
    {
        $this->isLoss = $version->kind !== EntryKind::Symlink;
        $this->present = Permissions::seen($seen);
        $this->refusal = match (true) {
            $this->present === null => 'it is not there, and only permissions come back',
            $version->kind === EntryKind::Symlink => 'a link has no permissions of its own',
            $seen->status?->type !== Status::typeOf($version->kind) => 'a '.$seen->status?->typeInWords().' stands there',
            $version->access === AccessList::NOT_KNOWN => 'its access list is too long for the catalog: bring the thing itself back',
            $this->present->access === null && $version->access !== '' => 'it had an access list, and this host takes none',
            default => null,
        };
        $this->keepsList = ! $knowsLists && $version->access === '' && ($this->present->access ?? '') !== '';
        $this->toGive = $this->refusal !== null || $this->present === null
            ? null
            : Permissions::toGive($version, $this->present, $owners, $knowsLists);
    }

    public function areGiven(): bool
    {
        return $this->present !== null && $this->toGive?->equals($this->present) === true;
    }

    /** @return list<string> in words */
    public function changes(): array
    {
        return $this->present === null ? [] : ($this->toGive?->changesFrom($this->present) ?? []);
    }
}
