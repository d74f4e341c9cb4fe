<?php

declare(strict_types=1);

namespace Kaiseki\Core\Doubt;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Tree;
use Kaiseki\Core\Catalog\Version;

/** What changed in the contents of a tree since the set before, and which of it looks as damage does. */
final class ChangeMeasures
{
    /** Files, and bytes, of the tree. */
    public int $files = 0;

    public int $bytes = 0;

    public int $filesBefore = 0;

    /** Files at the same path with another content. */
    public int $changed = 0;

    public int $added = 0;

    public int $removed = 0;

    /** @var array<array-key, string> path => digest: the same path, its bytes now even where they were not */
    public array $scrambled = [];

    /** @var array<array-key, string> path => digest: instead of a file whose name it bears with an ending that was not seen before */
    public array $renamed = [];

    /** @var array<array-key, string> path => digest: other new files with even bytes that no format explains */
    public array $newlyEven = [];

    /** @var array<array-key, string> path => digest: emptied, though there was something */
    public array $emptied = [];

    /** @var array<array-key, string> path => digest: all that changed */
    public array $changedContents = [];

    /** @var array<array-key, string> the endings that those bear, each told once */
    public array $newEndings = [];

    /** @var array<array-key, string> path => packed, of files that are no longer there */
    private array $gone = [];

    /** @var array<array-key, string> */
    private array $new = [];

    private function __construct()
    {
    }

    /** @param  Tree|null  $before  the tree of the set before it in its history; null if it is the first */
    public static function between(Tree $now, ?Tree $before): self
    {
        $measures = new self;
        if ($before === null) {
            foreach ($now->folderPaths() as $folder) {
                foreach ($now->children($folder) ?? [] as $packed) {
                    $measures->files += $packed[0] === 'f' ? 1 : 0;
                    $measures->bytes += Version::bytesOf($packed);
                }
            }

            return $measures;
        }
        foreach ($now->folderPaths() as $folder) {
            $measures->compare($folder, $now->children($folder) ?? [], $before->children($folder) ?? []);
        }
        foreach ($before->folderPaths() as $folder) {
            if ($now->children($folder) === null && ! self::isLeftOut((string) $folder, $now)) {
                $measures->compare($folder, [], $before->children($folder) ?? []);
            }
        }
        $measures->pairRenames($before);
        $measures->added = count($measures->new);
        $measures->removed = count($measures->gone);
        $measures->gone = $measures->new = [];

        return $measures;
    }

    /** Share of the files before that have another content now, or are there under an ending not seen before. */
    public function changedShare(): float
    {
        return $this->filesBefore === 0 ? 0.0 : min(1.0, ($this->changed + count($this->renamed)) / $this->filesBefore);
    }

    /** @return array<string, int|float> the figures, as they are kept with the set */
    public function figures(): array
    {
        return [
            'files' => $this->files,
            'bytes' => $this->bytes,
            'files_before' => $this->filesBefore,
            'changed' => $this->changed,
            'added' => $this->added,
            'removed' => $this->removed,
            'scrambled' => count($this->scrambled),
            'renamed' => count($this->renamed),
            'newly_even' => count($this->newlyEven),
            'emptied' => count($this->emptied),
            'changed_share' => round($this->changedShare(), 5),
        ];
    }

    /**
     * @param  array<array-key, string>  $now  name => packed
     * @param  array<array-key, string>  $then
     */
    private function compare(string $folder, array $now, array $then): void
    {
        foreach ($now as $name => $packed) {
            if ($packed[0] !== 'f') {
                continue;
            }
            $this->files++;
            $this->bytes += Version::bytesOf($packed);
            $old = $then[$name] ?? null;
            if ($old === $packed) {
                continue;
            }
            $path = EntryPath::join($folder, (string) $name);
            if ($old === null || $old[0] !== 'f') {
                $this->new[$path] = $packed;
            } elseif (($digest = self::digest($packed)) !== null && self::digest($old) !== null && $digest !== self::digest($old)) {
                $this->change($path, $packed, $old, $digest);
            }
        }
        foreach ($then as $name => $packed) {
            if ($packed[0] !== 'f' || ($now[$name][0] ?? '') === EntryKind::Excluded->value) {
                continue;
            }
            $this->filesBefore++;
            if (($now[$name][0] ?? '') !== 'f') {
                $this->gone[EntryPath::join($folder, (string) $name)] = $packed;
            }
        }
    }

    /** Whether it is in a folder that is left out on purpose now: what is in that may be there still. */
    private static function isLeftOut(string $folder, Tree $now): bool
    {
        for ($path = $folder; $path !== ''; [$path] = EntryPath::split($path)) {
            if (($now->at($path)[0] ?? '') === EntryKind::Excluded->value) {
                return true;
            }
        }

        return false;
    }

    private function change(string $path, string $packed, string $old, string $digest): void
    {
        $this->changed++;
        $this->changedContents[$path] = $digest;
        if (Version::textureOf($packed)->isScrambled(Version::textureOf($old))) {
            $this->scrambled[$path] = $digest;
        } elseif (Version::bytesOf($packed) === 0 && Version::bytesOf($old) > 0) {
            $this->emptied[$path] = $digest;
        }
    }

    /** "roster.csv.zzx", or "roster.zzx", where "roster.csv" was: with an ending that no file had before, and another content. */
    private function pairRenames(Tree $before): void
    {
        if ($this->new === [] || $this->gone === []) {
            $this->findNewlyEven();

            return;
        }
        $stems = [];
        foreach ($this->gone as $path => $_) {
            $stems[self::stem((string) $path)] = (string) $path;
        }
        $known = null;
        foreach ($this->new as $path => $packed) {
            $path = (string) $path;
            $dot = strrpos($path, '.');
            $ending = self::ending($path);
            if ($dot === false || $ending === '') {
                continue;
            }
            $from = isset($this->gone[substr($path, 0, $dot)]) ? substr($path, 0, $dot) : $stems[self::stem($path)] ?? null;
            if ($from === null || self::digest($packed) === self::digest($this->gone[$from])) {
                continue; // only the name is another
            }
            $known ??= self::endings($before);
            $digest = self::digest($packed);
            $texture = Version::textureOf($packed);
            if (! isset($known[$ending]) && $digest !== null && ! $texture->isDense()) {
                $this->renamed[$path] = $digest;
                $this->newEndings[$ending] = $ending;
            }
        }
        $this->newEndings = array_values($this->newEndings);
        $this->findNewlyEven();
    }

    private function findNewlyEven(): void
    {
        foreach ($this->new as $path => $packed) {
            $digest = self::digest($packed);
            if ($digest !== null && ! isset($this->renamed[$path]) && Version::textureOf($packed)->isHigh()) {
                $this->newlyEven[$path] = $digest;
            }
        }
    }

    /** @return array<string, true> */
    private static function endings(Tree $tree): array
    {
        $endings = [];
        foreach ($tree->folderPaths() as $folder) {
            foreach ($tree->children($folder) ?? [] as $name => $packed) {
                if ($packed[0] === 'f') {
                    $endings[self::ending((string) $name)] = true;
                }
            }
        }

        return $endings;
    }

    private static function ending(string $path): string
    {
        $name = substr($path, (int) strrpos("/$path", '/'));
        $dot = strrpos($name, '.');

        return $dot === false || $dot === 0 ? '' : strtolower(substr($name, $dot));
    }

    private static function stem(string $path): string
    {
        $ending = self::ending($path);

        return $ending === '' ? $path : substr($path, 0, -strlen($ending));
    }

    private static function digest(string $packed): ?string
    {
        return $packed[17] === "\1" ? substr($packed, 18, 32) : null;
    }
}
