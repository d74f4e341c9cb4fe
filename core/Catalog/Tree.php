<?php

declare(strict_types=1);

namespace Kaiseki\Core\Catalog;

use Kaiseki\Core\Archive\EntryKind;

/** All entries of one point, folder by folder. */
final class Tree
{
    /** @var array<array-key, array<array-key, string>> folder path => name => packed version */
    private array $folders = ['' => []];

    /** The version of the top itself, packed; null if it was not stored. */
    public ?string $top = null;

    /** Puts an entry in place, with the folders above it where none was recorded. */
    public function put(string $path, string $packed): void
    {
        if ($path === '') {
            $this->top = $packed;

            return;
        }
        [$folder, $name] = EntryPath::split($path);
        if (! isset($this->folders[$folder])) {
            $this->ensure($folder);
        }
        $before = $this->folders[$folder][$name] ?? null;
        if ($packed[0] === 'd') {
            $this->folders[$path] ??= [];
        } elseif ($before !== null && $before[0] === 'd') {
            $this->drop($path);
        }
        $this->folders[$folder][$name] = $packed;
    }

    /** Puts something that is no folder into a folder that is there, under a name that is new in it. */
    public function addTo(string $folder, string|int $name, string $packed): void
    {
        $this->folders[$folder][$name] = $packed;
    }

    /** Takes an entry and all below it away. */
    public function remove(string $path): void
    {
        [$folder, $name] = EntryPath::split($path);
        if (($this->folders[$folder][$name][0] ?? '') === 'd') {
            $this->drop($path);
        }
        unset($this->folders[$folder][$name]);
    }

    /** @return array<array-key, string>|null name => packed version; null if there is no such folder */
    public function children(string $folder): ?array
    {
        return $this->folders[$folder] ?? null;
    }

    public function at(string $path): ?string
    {
        if ($path === '') {
            return $this->top;
        }
        [$folder, $name] = EntryPath::split($path);

        return $this->folders[$folder][$name] ?? null;
    }

    /** @return iterable<string> */
    public function folderPaths(): iterable
    {
        foreach ($this->folders as $path => $_) {
            yield (string) $path;
        }
    }

    /** @return iterable<string, string> path => packed version; the top only where it was stored */
    public function entries(): iterable
    {
        if ($this->top !== null) {
            yield '' => $this->top;
        }
        foreach ($this->folders as $folder => $children) {
            foreach ($children as $name => $packed) {
                yield EntryPath::join((string) $folder, (string) $name) => $packed;
            }
        }
    }

    private function ensure(string $folder): void
    {
        if (isset($this->folders[$folder])) {
            return;
        }
        $this->put($folder, self::plainFolder());
    }

    private function drop(string $folder): void
    {
        foreach ($this->folders[$folder] ?? [] as $name => $packed) {
            if ($packed[0] === 'd') {
                $this->drop($folder.'/'.$name);
            }
        }
        unset($this->folders[$folder]);
    }

    private static function plainFolder(): string
    {
        static $packed = null;

        return $packed ??= (new Version(EntryKind::Folder, 0, 0, null, 0755, 0, 0, '', ''))->pack();
    }
}
