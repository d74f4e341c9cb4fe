<?php

declare(strict_types=1);

namespace App\Trees\Intake;

use App\Models\BackupSet;
use Kaiseki\Core\Catalog\ArchiveScan;
use Kaiseki\Core\Catalog\ResolvedTree;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Tree;
use Kaiseki\Core\Catalog\TreeResolver;
use Kaiseki\Core\Chain\Level;

/** Finds the tree of a set from its archive and the tree of its base, and notes on the set what came of that. */
final class SetResolution
{
    public static function of(BackupSet $set, ArchiveScan $scan, ?BackupSet $base, ?Tree $tree): ResolvedTree
    {
        $level = Level::of($set->level);
        $set->base_id = $set->tried_base_id = $base?->id;
        $set->base_unknown_because = null;
        $resolved = self::resolve($set, $level, $scan, $base, $tree);
        $whole =
            $scan->whole &&
            $set->getAttribute('base_unknown_because') === null &&
            $resolved->unresolved === [] &&
            $resolved->lostFolders === [] &&
            ($base === null || $base->cataloged === 'whole');
        $set->cataloged = $whole ? 'whole' : 'part';
        $set->remarks = self::remarks($scan, $resolved, $level);

        return $resolved;
    }

    private static function resolve(BackupSet $set, Level $level, ArchiveScan $scan, ?BackupSet $base, ?Tree $tree): ResolvedTree
    {
        if ($level->needsNoBase()) {
            return TreeResolver::resolve($scan, null, false);
        }
        if ($base === null) {
            $set->base_unknown_because =
                $set->base_name !== null ? "its base {$set->base_name} is not here" : 'no set that it could rest on is here';

            return TreeResolver::resolve($scan, null, true);
        }
        $resolved = TreeResolver::resolve($scan, $tree, true);
        if ($resolved->unresolved !== [] && ! $set->base_recorded && $base->cataloged === 'whole') {
            // An entry that is in no such base: this is not the set it was made against, and what fits may fit by chance.
            $set->base_id = null;
            $set->base_unknown_because = sprintf(
                'it does not rest on %s: %d of the entries it names as unchanged are not there',
                $base->name,
                count($resolved->unresolved),
            );

            return TreeResolver::resolve($scan, null, true);
        }

        return $resolved;
    }

    /** @return list<string> */
    private static function remarks(ArchiveScan $scan, ResolvedTree $resolved, Level $level): array
    {
        $remarks = array_map(fn (string $problem): string => "The archive $problem.", array_slice($scan->problems, 0, 20));
        if ($resolved->unresolved !== []) {
            $remarks[] = count($resolved->unresolved).' entries are named as unchanged, but their content is not known.';
        }
        if ($resolved->lostFolders !== []) {
            $remarks[] =
                count($resolved->lostFolders).
                ' folders are named, but neither they nor what is in them were stored: "'.
                Shown::name($resolved->lostFolders[0]).
                '".';
        }
        if ($resolved->notStored !== []) {
            $remarks[] = count($resolved->notStored).' entries were not stored (sockets, or gone while the set was made).';
        }
        if (! $level->needsNoBase() && ! $resolved->hasFolderRecords) {
            $remarks[] = 'It has no folder records: what was deleted before it is not known.';
        }

        return $remarks;
    }
}
