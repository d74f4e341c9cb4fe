<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Catalog\Version;

/** Gives what came back its access list. */
final readonly class AccessLists
{
    private Owners $owners;

    public function __construct(private RestoreOrder $order, private Target $target)
    {
        $this->owners = $target->owners();
    }

    /**
     * @param  string  $at  where it stands now
     * @return string|null what of its list was not given, and why
     *
     * @throws UnableToRestore if nothing more can be written there
     */
    public function give(string $at, Version $version): ?string
    {
        if ($version->access === AccessList::NOT_KNOWN) {
            return 'its access list is too long for the catalog, and was not given';
        }
        $permissions = new Permissions(
            $this->order->modeOf($version),
            $this->owners->user($version),
            $this->owners->group($version),
            $version->access,
        );
        try {
            $this->target->permit($at, $permissions, $this->owners->mayGiveAway);
        } catch (UnableToRestore $failure) {
            return $failure->targetIsUnfit ? throw $failure : "its access list was not given: {$failure->getMessage()}";
        }

        return self::withoutUnknown($version->access);
    }

    /** That a list was given without somebody; null if all in it are known. */
    public static function withoutUnknown(string $access): ?string
    {
        $unknown = PosixAcl::ofText($access)->unknown;

        return $unknown === []
            ? null
            : 'its access list was given without '.implode(', ', array_slice($unknown, 0, 5)).', of whom nobody is known here by that name';
    }
}
