<?php

declare(strict_types=1);

namespace Kaiseki\Core\Catalog;

use Kaiseki\Core\Archive\EntryKind;

/**
 * The tree of a set: its own folder records, with each unchanged entry taken, through the recorded moves, from the tree
 * of its base. GNU tar's own replay loses files where folders within moved folders were moved; this does not replay.
 */
final class TreeResolver
{
    /** Moves in a circle lead back to ever longer names. */
    private const MOST_CANDIDATES = 200;

    /** @var array<array-key, string> destination => source, chains through the temporary name folded */
    private array $moved = [];

    /** @var list<string> entries that were named as unchanged and are not in the base */
    private array $unresolved = [];

    /** @var list<string> folders of which the archive tells only that they were there */
    private array $lostFolders = [];

    /** @var list<string> entries that were named as stored and are not in the archive */
    private array $notStored = [];

    private function __construct(private readonly ArchiveScan $scan, private readonly ?Tree $base)
    {
    }

    /**
     * @param  Tree|null  $base  null for a full, and where the base is not known
     * @param  bool  $needsBase  false for a full
     */
    public static function resolve(ArchiveScan $scan, ?Tree $base, bool $needsBase): ResolvedTree
    {
        $resolver = new self($scan, $base);
        if ($scan->folders === []) {
            // No folder records: a plain archive. Over a base it adds and replaces; what was deleted is not told.
            $tree = $needsBase && $base !== null ? clone $base : new Tree;
            foreach ($scan->members as $path => $packed) {
                $tree->put((string) $path, $packed);
            }

            return new ResolvedTree($tree, [], [], [], false);
        }
        $resolver->foldMoves();
        $tree = $resolver->build($needsBase);

        return new ResolvedTree($tree, $resolver->unresolved, $resolver->notStored, $resolver->lostFolders, true);
    }

    private function build(bool $needsBase): Tree
    {
        $tree = new Tree;
        $folders = array_map(strval(...), array_keys($this->scan->folders));
        sort($folders, SORT_STRING); // a folder before what is below it
        $unknown = Version::unknown()->pack();
        $excluded = self::bare(EntryKind::Excluded);
        $absent = self::bare(EntryKind::NotStored);
        foreach ($folders as $folder) {
            $tree->put($folder, $this->scan->members[$folder]);
            $names = $this->scan->folders[$folder];
            $from = $needsBase && in_array('N', $names, true) ? $this->sourceOf($folder, $names) : null;
            $source = $from === null ? [] : $this->base?->children($from) ?? [];
            foreach ($names as $name => $code) {
                $path = EntryPath::join($folder, (string) $name);
                if ($code === 'D') {
                    continue; // it has an entry of its own, unless it lies on another file system
                }
                $packed = $this->scan->members[$path] ?? null;
                if ($packed === null && $code === ArchiveScan::EXCLUDED) {
                    $packed = $excluded;
                } elseif ($packed === null && $code === 'N') {
                    $packed = $needsBase ? $source[$name] ?? null : $excluded;
                    if ($packed === null) {
                        $this->unresolved[] = $path;
                        $packed = $unknown;
                    } elseif ($packed[0] === 'd') {
                        // After moves in a circle GNU tar at times names a folder so and stores nothing of it, changed or not.
                        $this->lostFolders[] = $path;
                        $packed = $unknown;
                    }
                } elseif ($packed === null) {
                    $this->notStored[] = $path;
                    $packed = $this->scan->whole ? $absent : $unknown;
                } elseif ($packed[0] === 'd') {
                    continue;
                }
                $tree->addTo($folder, $name, $packed);
            }
        }
        // Members that no folder record names: of archives that were written in several goes.
        foreach ($this->scan->members as $path => $packed) {
            $path = (string) $path;
            [$folder, $name] = EntryPath::split($path);
            if ($packed[0] !== 'd' && ! isset($this->scan->folders[$folder][$name])) {
                $tree->put($path, $packed);
            } elseif ($packed[0] === 'd' && ! isset($this->scan->folders[$path])) {
                $tree->put($path, $packed);
            }
        }

        return $tree;
    }

    /**
     * The folder of the base in which the unchanged entries of $folder stood. An unchanged file has not been renamed
     * itself, so it was in the same folder, whatever that was called then. Where folders within moved folders were moved,
     * GNU tar writes sources by names that they never had, so every name that the recorded moves can lead back to is a
     * candidate: the one that has all the unchanged names is taken; of several the one with the folder's own time, then
     * the one that shares most names.
     *
     * @param  array<array-key, string>  $names
     * @return string|null its path in the base; null if no candidate is there
     */
    private function sourceOf(string $folder, array $names): ?string
    {
        $unchanged = array_keys($names, 'N', true);
        $time = Version::columns($this->scan->members[$folder])['mtime'];
        $best = null;
        $most = [-1, 0, 0];
        foreach ($this->candidates($folder) as $candidate) {
            $children = $this->base?->children($candidate);
            if ($children === null) {
                continue;
            }
            $found = 0;
            foreach ($unchanged as $name) {
                $found += isset($children[$name]) && $children[$name][0] !== 'd' ? 1 : 0;
            }
            $own = $this->base?->at($candidate);
            $score = [
                $found,
                $own !== null && Version::columns($own)['mtime'] === $time ? 1 : 0,
                count(array_intersect_key($children, $names)),
            ];
            if ($score > $most) {
                [$most, $best] = [$score, $candidate];
            }
        }

        return $most[0] === count($unchanged) || $this->moved === [] ? $best : $this->onlyFolderWith($unchanged) ?? $best;
    }

    /**
     * The one folder of the base that has all these names, for moves that no record leads back through (a folder that
     * was moved into what had been below it, say); null if there is none, or more than one.
     *
     * @param  list<int|string>  $unchanged
     */
    private function onlyFolderWith(array $unchanged): ?string
    {
        $only = null;
        foreach ($this->base?->folderPaths() ?? [] as $folder) {
            $children = $this->base?->children($folder) ?? [];
            foreach ($unchanged as $name) {
                if (! isset($children[$name]) || $children[$name][0] === 'd') {
                    continue 2;
                }
            }
            if ($only !== null) {
                return null;
            }
            $only = $folder;
        }

        return $only;
    }

    /** @return list<string> the names that the folder may have had in the base, the likeliest first */
    private function candidates(string $folder): array
    {
        if ($this->moved === []) {
            return [$folder];
        }
        $candidates = isset($this->moved[$folder]) ? [$this->moved[$folder] => true, $folder => true] : [$folder => true];
        for ($waiting = array_map(strval(...), array_keys($candidates)); $waiting !== [] && count($candidates) < self::MOST_CANDIDATES;) {
            $path = array_shift($waiting);
            for ($prefix = $path; ; $prefix = substr($prefix, 0, $slash)) {
                $before = $this->moved[$prefix] ?? null;
                if ($before !== null) {
                    $candidate = $before.substr($path, strlen($prefix));
                    if (! isset($candidates[$candidate])) {
                        $candidates[$candidate] = true;
                        $waiting[] = $candidate;
                    }
                }
                $slash = strrpos($prefix, '/');
                if ($slash === false) {
                    break;
                }
            }
        }

        return array_map(strval(...), array_keys($candidates));
    }

    /** R and T come in pairs; an empty path in one of them stands for the temporary folder that X named. */
    private function foldMoves(): void
    {
        $held = '';
        $source = null;
        foreach ($this->scan->moves as [$code, $path]) {
            if ($code === 'R') {
                $source = $path === '' ? $held : $path;
            } elseif ($code === 'T' && $source !== null) {
                if ($path === '') {
                    $held = $source;
                } else {
                    $this->moved[$path] = $source;
                }
                $source = null;
            }
        }
    }

    private static function bare(EntryKind $kind): string
    {
        return (new Version($kind, 0, 0, null, 0, 0, 0, '', ''))->pack();
    }
}
