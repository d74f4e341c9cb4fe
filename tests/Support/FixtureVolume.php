<?php

declare(strict_types=1);

namespace Tests\Support;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Volume\FileSystem;
use Kaiseki\Core\Volume\FoundFile;

/** Volumes of tests/Fixtures that Linux wrote, and the listing of what it read of them; and what we read. */
final class FixtureVolume
{
    private const KINDS = ['f' => 'File', 'd' => 'Folder', 'l' => 'Symlink', 'p' => 'Fifo', 'c' => 'CharacterDevice'];

    /** @return iterable<string, FoundFile> path => file, a folder before what is in it */
    public static function files(FileSystem $volume, ?FoundFile $folder = null, string $path = ''): iterable
    {
        foreach ($volume->children($folder ?? $volume->root()) as $name => $file) {
            $at = EntryPath::join($path, (string) $name);
            yield $at => $file;
            yield from $file->version->kind === EntryKind::Folder ? self::files($volume, $file, $at) : [];
        }
    }

    /** @return array<string, list<int|string>> path => kind, bytes, time, mode, owner, group, target, SHA-256 */
    public static function found(FileSystem $volume): array
    {
        $found = [];
        foreach (self::files($volume) as $path => $file) {
            $is = $file->version;
            $digest = $is->kind === EntryKind::File ? hash('sha256', implode('', [...$volume->content($file)])) : '';
            $found[$path] = [$is->kind->name, $is->size, $is->mtime, $is->mode, $is->uid, $is->gid, $is->linkTarget, $digest];
        }

        return $found;
    }

    /** @return array<string, list<int|string>> the same, as a listing tells it */
    public static function told(string $listing): array
    {
        $told = [];
        foreach (explode("\n", rtrim((string) gzdecode((string) file_get_contents($listing)), "\n")) as $line) {
            [$path, $kind, $size, $time, $mode, $uid, $gid, $target, $digest] = explode("\t", $line);
            [$seconds, $parts] = explode('.', $time); // find(1) counts the parts from the second on that a time lies in
            $told[$path] = [
                self::KINDS[$kind], $kind === 'f' ? (int) $size : 0, (int) $seconds * 1_000_000_000 + (int) substr($parts, 0, 9),
                (int) octdec($mode), (int) $uid, (int) $gid, $target, $digest,
            ];
        }

        return $told;
    }
}
