<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\BackupSet;
use App\Sets\SetOutline;
use Closure;

/**
 * Says of the points of one workload what each can give back. It is made anew with them, and asked about many: it keeps what it looked
 * up.
 */
interface Judge
{
    /** Whether a set that does not say to be consistent is less than was promised. It is asked before the points are all there. */
    public function needsConsistency(): bool;

    public function usability(SetOutline $set): Usability;

    /** How many points are not whole. */
    public function hurt(): int;

    /** The set whose loss a point survives, since what it needs of it lies elsewhere; null for none. */
    public function bridged(SetOutline $set): ?SetOutline;

    /**
     * @param  list<string>|null  $wanted  what is wanted, as the kind says it; null for everything
     * @return Closure(SetOutline): ?string why a point does not give it back; null where it does
     */
    public function blockages(?array $wanted): Closure;

    /**
     * @param  list<string>|null  $wanted
     * @return Closure(SetOutline): ?string why what is wanted of a point is in doubt; null where it is not
     */
    public function doubts(?array $wanted): Closure;

    /** Seconds that bringing all of it back would take, likely; null where that cannot be told. */
    public function restoreSeconds(SetOutline $set): ?float;

    /** @return list<Given> what a set could give back, and what not */
    public function gives(BackupSet $set): array;

    /**
     * Writes what a person needs to bring the newest good point back without the desk: a sheet of commands, and what goes with it.
     *
     * @param  list<string>  $archives  of its chain, below the store, the first first
     * @param  string  $folder  beside the folders of the store's workloads
     * @return string|null a line about it; null if there is nothing to say
     *
     * @throws \App\Stores\UnableToStore
     */
    public function writeNightSheet(SetOutline $point, array $archives, string $folder): ?string;
}
