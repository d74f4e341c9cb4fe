<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Files\Seen;
use Kaiseki\Core\Files\Status;

/** Goes through a live folder tree: all folders, each before what is in it, with the names of all their entries. */
final class SourceWalk
{
    /** @var array<int, string> */
    private array $users = [];

    /** @var array<int, string> */
    private array $groups = [];

    public function __construct(private readonly Look $source, private readonly Exclusions $exclusions = new Exclusions)
    {
    }

    /** @return iterable<SourceFolder> in the order of their paths, the top first */
    public function folders(): iterable
    {
        $waiting = [''];
        while ($waiting !== []) {
            $folder = $this->folder(array_pop($waiting));
            foreach (array_reverse($folder->entries) as $entry) {
                $entry->kind !== EntryKind::Folder || $waiting[] = $entry->path;
            }
            yield $folder;
        }
    }

    private function folder(string $path): SourceFolder
    {
        $names = $this->source->names($path);
        sort($names, SORT_STRING);
        $asked = $entries = $leftOut = [];
        foreach ($names as $name) {
            $within = EntryPath::join($path, $name);
            if (str_starts_with($name, '.kaiseki-')) {
                continue; // staging folders and set-asides of runs
            }
            if ($this->exclusions->at($within) === null) {
                $asked[] = [$within, 0];
            } else {
                $leftOut[] = $name;
            }
        }
        foreach ($this->source->many($asked) as $seen) {
            $entry = $this->entryOf($seen);
            $entry === null || $entries[] = $entry;
        }

        return new SourceFolder($path, $entries, $leftOut);
    }

    /** Null if it is gone, or of a kind that is not stored (sockets, devices). */
    public function entry(string $path): ?SourceEntry
    {
        foreach ($this->source->many([[$path, Seen::ACCESS]]) as $seen) {
            return $this->entryOf($seen);
        }

        return null;
    }

    /** The same, where it was looked at together with others. */
    public function entryOf(Seen $seen): ?SourceEntry
    {
        $status = $seen->status;
        $kind = match ($status?->type) {
            Status::FILE => EntryKind::File,
            Status::FOLDER => EntryKind::Folder,
            Status::SYMLINK => EntryKind::Symlink,
            Status::FIFO => EntryKind::Fifo,
            default => null,
        };
        if ($status === null || $kind === null) {
            return null;
        }

        return new SourceEntry(
            $seen->path,
            $kind,
            $kind === EntryKind::File ? $status->size : 0,
            $status->mode,
            $status->uid,
            $status->gid,
            $seen->owner[0] ?? ($this->users[$status->uid] ??= posix_getpwuid($status->uid)['name'] ?? ''),
            $seen->owner[1] ?? ($this->groups[$status->gid] ??= posix_getgrgid($status->gid)['name'] ?? ''),
            $status->mtime,
            $status->ctime,
            $status->inode,
            $status->device,
            $status->links,
            $seen->link,
            self::extended($seen),
            AccessList::textOfMember($seen->extended) ?: (string) $seen->access,
        );
    }

    /** @return array<string, string> see TarEntry::$extended */
    private static function extended(Seen $seen): array
    {
        return $seen->extended + (($seen->access ?? '') === '' ? [] : (AccessList::of((string) $seen->access)?->member() ?? []));
    }
}
