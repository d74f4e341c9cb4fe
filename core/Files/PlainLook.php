<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Closure;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\Internal\OpenFiles;

/**
 * A folder of this machine looked at with PHP's own functions, where the C library is not at hand (the pages). It goes
 * through no link either, as far as it can be seen beforehand; nothing is written by it.
 */
final class PlainLook implements Look
{
    /** Paths whose access lists are asked for together. */
    private const MANY = 200;

    /** @var array<array-key, string|null> path => access list, of those that are looked at together */
    private array $printed = [];

    private ?OpenFiles $inUse = null;

    /** @var array<array-key, bool> folder => whether it and all above it are folders and no links */
    private array $folders = ['' => true];

    /**
     * @param  string|null  $root  a folder at or above it, from which on no link is gone through; null for the folder itself
     * @param  (Closure(list<string>): array<array-key, string>)|null  $lists  access lists of whole paths, by path; null where nobody tells
     */
    public function __construct(private readonly string $path, ?string $root = null, private readonly ?Closure $lists = null)
    {
        clearstatcache(true);
        $this->folders[''] = is_dir($path);
        $at = rtrim($root ?? $path, '/');
        foreach (FolderBelow::partsBetween($root ?? $path, $path) as $part) {
            $at .= "/$part";
            $this->folders[''] = $this->folders[''] && ! is_link($at);
        }
    }

    public function label(): string
    {
        return $this->path;
    }

    public function status(string $path): ?Status
    {
        [$folder] = EntryPath::split($path);
        $found = $this->isFolder($folder) ? @lstat(rtrim("$this->path/$path", '/')) : false;

        return $found === false
            ? null
            : new Status(
                $found['mode'] & 0170000,
                $found['mode'] & 07777,
                $found['size'],
                $found['mtime'] * 1_000_000_000,
                $found['ctime'] * 1_000_000_000,
                $found['uid'],
                $found['gid'],
                $found['nlink'],
                $found['ino'],
                $found['dev'],
                $found['blocks'] * 512,
            );
    }

    public function names(string $path): array
    {
        return $this->isFolder($path) ? array_values(array_diff(@scandir("$this->path/$path", SCANDIR_SORT_NONE) ?: [], ['.', '..'])) : [];
    }

    public function readLink(string $path): string
    {
        [$folder] = EntryPath::split($path);

        return $this->isFolder($folder) ? (string) @readlink("$this->path/$path") : '';
    }

    public function access(string $path, bool $isFolder): ?string
    {
        $this->printed === [] && $this->print([[$path, Seen::ACCESS]]);

        return $this->printed[$path] ?? null;
    }

    public function many(iterable $asked): iterable
    {
        foreach ($this->inBatches($asked) as $batch) {
            $this->print($batch);
            foreach ($batch as [$path, $want]) {
                yield Seen::by($this, $path, $want);
            }
            $this->printed = [];
        }
    }

    /**
     * @param  iterable<array{string, int}>  $asked
     * @return iterable<list<array{string, int}>>
     */
    private function inBatches(iterable $asked): iterable
    {
        $batch = [];
        foreach ($asked as $one) {
            $batch[] = $one;
            if (count($batch) >= self::MANY) {
                yield $batch;
                $batch = [];
            }
        }
        yield $batch;
    }

    /** @param  list<array{string, int}>  $batch */
    private function print(array $batch): void
    {
        $full = [];
        foreach ($batch as [$path, $want]) {
            $type = ($want & Seen::ACCESS) === 0 ? null : $this->status($path)?->type;
            if ($type !== null && $type !== Status::SYMLINK) {
                $full[$path] = rtrim("$this->path/$path", '/');
            }
        }
        $lists = $full === [] || $this->lists === null ? [] : ($this->lists)(array_values($full));
        $this->printed = [];
        foreach ($full as $path => $at) {
            $this->printed[$path] = $lists[$at] ?? null;
        }
    }

    public function digest(string $path, ?int $size = null): ?string
    {
        $stream = $this->read($path);
        if ($stream === null) {
            return null;
        }
        $digest = ContentDigest::ofStream($stream);
        fclose($stream);

        return $digest;
    }

    public function read(string $path)
    {
        $status = $this->status($path);
        $stream = $status?->type === Status::FILE ? @fopen("$this->path/$path", 'rb') : false;
        $opened = $stream === false ? false : fstat($stream);
        if ($stream === false || $opened === false) {
            return null;
        }
        if ($opened['ino'] !== $status?->inode || $opened['dev'] !== $status->device) {
            // a link was put there meanwhile
            fclose($stream);

            return null;
        }

        return $stream;
    }

    public function freeBytes(): int
    {
        for ($folder = $this->path; ! is_dir($folder) && $folder !== '/';) {
            $folder = dirname($folder);
        }

        return (int) (@disk_free_space($folder) ?: 0);
    }

    public function timeStep(): int
    {
        return 1_000_000_000;
    }

    public function openForWriting(string $path): ?string
    {
        return ($this->inUse ??= OpenFiles::below($this->path))->at($path);
    }

    private function isFolder(string $folder): bool
    {
        if (! isset($this->folders[$folder])) {
            $status = $this->status($folder);
            $this->folders[$folder] = $status?->type === Status::FOLDER;
        }

        return $this->folders[$folder];
    }
}
