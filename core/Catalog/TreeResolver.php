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
    /** @var array<array-key, string> destination => source, chains through the temporary name folded */
    private array $moved = [];

    /** @var list<string> entries that were named as unchanged and are not in the base */
    private array $unresolved = [];

    /** @var list<string> entries that were named as stored and are not in the archive */
    private array $notStored = [];

    private function __construct(private readonly ArchiveScan $scan, private readonly ?Tree $base) {}

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

            return new ResolvedTree($tree, [], [], ! $needsBase || $base !== null, false);
        }
        $resolver->foldMoves();
        $tree = $resolver->build($needsBase);

        return new ResolvedTree($tree, $resolver->unresolved, $resolver->notStored, ! $needsBase || $base !== null, true);
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
            $source = $needsBase && $this->base !== null && in_array('N', $names, true) ? $this->sourceOf($folder, $names) : [];
            foreach ($names as $name => $code) {
                $path = EntryPath::join($folder, (string) $name);
                if ($code === 'D') {
                    continue; // it has an entry of its own, unless it lies on another file system
                }
                $packed = $this->scan->members[$path] ?? null;
                if ($packed === null && $code === 'N') {
                    $packed = $needsBase ? $source[$name] ?? null : $excluded;
                    if ($packed === null || $packed[0] === 'd') {
                        $this->unresolved[] = $path;
                        $packed = $unknown;
                    }
                } elseif ($packed === null) {
                    $this->notStored[] = $path;
                    $packed = $this->scan->whole ? $absent : $unknown;
                } elseif ($packed[0] === 'd') {
                    continue;
                }
                $tree->put($path, $packed);
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
     * The folder of the base in which the unchanged entries of $folder stand: of the candidates the one that has them
     * all, else the one that has most.
     *
     * @param  array<array-key, string>  $names
     * @return array<array-key, string>
     */
    private function sourceOf(string $folder, array $names): array
    {
        $best = [];
        $most = -1;
        foreach ($this->candidates($folder) as $candidate) {
            $children = $this->base?->children($candidate) ?? [];
            $found = $wanted = 0;
            foreach ($names as $name => $code) {
                if ($code === 'N') {
                    $wanted++;
                    $found += isset($children[$name]) && $children[$name][0] !== 'd' ? 1 : 0;
                }
            }
            if ($found === $wanted) {
                return $children;
            }
            if ($found > $most) {
                [$most, $best] = [$found, $children];
            }
        }

        return $best;
    }

    /** @return list<string> */
    private function candidates(string $folder): array
    {
        if (! isset($this->moved[$folder])) {
            return [$folder];
        }
        $source = $this->moved[$folder];
        $throughMovedParents = $this->beforeMoves($source, []);

        return $throughMovedParents === $source ? [$source] : [$throughMovedParents, $source];
    }

    /**
     * The path with its longest proper prefix that was itself moved replaced by where that came from, and so on.
     *
     * @param  array<string, true>  $seen
     */
    private function beforeMoves(string $path, array $seen): string
    {
        if (isset($seen[$path])) {
            return $path;
        }
        $seen[$path] = true;
        for ($prefix = $path; ($slash = strrpos($prefix, '/')) !== false;) {
            $prefix = substr($prefix, 0, $slash);
            if (isset($this->moved[$prefix])) {
                return $this->beforeMoves($this->moved[$prefix], $seen).substr($path, strlen($prefix));
            }
        }

        return $path;
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
