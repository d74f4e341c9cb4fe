<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Generator;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;

/** All that lies in a folder of a volume, a folder before what is in it. */
final class TreeWalk
{
    /** Folders within each other, more than any path has that Linux takes. */
    private const DEEPEST = 2048;

    /**
     * @param  string  $path  that stands before their names; '' for none
     * @param  array<int, true>  $above  inodes of the folders it lies in: none holds itself
     * @return Generator<string, FoundFile>
     *
     * @throws UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public static function below(FileSystem $files, FoundFile $folder, string $path = '', array $above = []): Generator
    {
        if (isset($above[$folder->node]) || count($above) > self::DEEPEST) {
            throw UnreadableVolume::damaged('a folder lies in itself');
        }
        $above[$folder->node] = true;
        foreach ($files->children($folder) as $name => $child) {
            $at = EntryPath::join($path, (string) $name);
            yield $at => $child;
            if ($child->version->kind === EntryKind::Folder) {
                yield from self::below($files, $child, $at, $above);
            }
        }
    }
}
