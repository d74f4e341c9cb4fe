<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Kinds\Machines\Order\CannotBring;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Catalog\FoundVersion;
use App\Trees\Catalog\SearchQuery;
use Closure;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\UnableToRead;

/** Looks for files inside a machine, in one point after the other, straight from the images: which versions there were, and when. */
final class MachineSearch
{
    /** @var list<FoundVersion> that ended */
    private array $ended = [];

    /** @var array<array-key, FoundVersion> path => the version that the last point had */
    private array $open = [];

    /** @var list<string> what could not be looked into, and why */
    public array $notes = [];

    public bool $isCut = false;

    public function __construct(private readonly Points $points, private readonly SearchQuery $query, private readonly int $most)
    {
    }

    /**
     * @param  Closure(string): void  $told
     * @return list<FoundVersion> by path, the newest first
     */
    public function run(Closure $told): array
    {
        $histories = [];
        foreach ($this->points->sets as $set) {
            $histories[$set->history][] = $set;
        }
        foreach ($histories as $history => $sets) {
            foreach ($sets as $number => $set) {
                $told('point '.($number + 1).' of '.count($sets));
                $this->isCut || ! $this->isMeant($set, $sets[$number + 1] ?? null) || $this->lookInto($set, $history);
            }
            $this->close(PHP_INT_MAX);
        }
        $this->isCut = $this->isCut || count($this->ended) > $this->most;
        usort($this->ended, fn (FoundVersion $a, FoundVersion $b): int => [$a->path, $b->first] <=> [$b->path, $a->first]);

        return array_slice($this->ended, 0, $this->most);
    }

    /** A point holds from its moment on until the next. */
    private function isMeant(SetOutline $set, ?SetOutline $next): bool
    {
        return ($this->query->to === null || $set->instant <= $this->query->to) &&
            ($this->query->from === null || $next === null || $next->instant > $this->query->from);
    }

    private function lookInto(SetOutline $set, int $history): void
    {
        if ($this->points->usable($set) === 'no') {
            $this->notes[] = "{$set->name} cannot be looked into: ".($this->points->because($set) ?? 'it cannot be read').'.';

            return;
        }
        $tree = new MachineTree($this->points, $set);
        try {
            foreach ($tree->volumes() as $volume) {
                $this->take($volume->name, $this->found($tree, $volume, $set), $set, $history);
            }
            $had = array_unique(array_map(self::volumeOf(...), array_keys($this->open)));
            foreach (array_diff($had, array_map(strval(...), array_keys($tree->volumes()))) as $volume) {
                $this->take($volume, [], $set, $history);
            }
        } catch (UnableToRead $unable) {
            $this->notes[] = "{$set->name} cannot be looked into: {$unable->getMessage()}";
        }
    }

    /** @return array<array-key, Version>|null what fits on a volume, by path; null if not all of it can be looked into */
    private function found(MachineTree $tree, VolumeOfPoint $volume, SetOutline $set): ?array
    {
        if ($volume->files === null) {
            in_array($volume->name, array_map(self::volumeOf(...), array_keys($this->open)), true) &&
                $this->notes[] = "{$volume->name} of {$set->name} cannot be looked into: {$volume->because}.";

            return null;
        }
        $found = [];
        try {
            foreach ($tree->below($volume->name) as $path => $file) {
                if ($this->query->fits((string) $path, $file->version)) {
                    $found[(string) $path] = $file->version;
                }
                if (count($found) + count($this->open) + count($this->ended) > 2 * $this->most) {
                    $this->isCut = true;

                    return null;
                }
            }
        } catch (CannotBring|UnableToRead $cannot) {
            $this->notes[] = "{$volume->name} of {$set->name} cannot be looked into whole: ".lcfirst($cannot->getMessage());

            return null;
        }

        return $found;
    }

    private static function volumeOf(int|string $path): string
    {
        return explode('/', (string) $path, 2)[0];
    }

    /** @param  array<array-key, Version>|null  $found */
    private function take(string $volume, ?array $found, SetOutline $set, int $history): void
    {
        foreach ($found === null ? [] : $this->open as $path => $version) {
            $isHere = $path === $volume || str_starts_with((string) $path, "$volume/");
            if ($isHere && (! isset($found[$path]) || $found[$path]->pack() !== $version->version->pack())) {
                $this->ended[] = self::until($version, $set->instant);
                unset($this->open[$path]);
            }
        }
        foreach ($found ?? [] as $path => $version) {
            $this->open[$path] ??= new FoundVersion(EntryPath::of((string) $path), $set->instant, PHP_INT_MAX, $version, history: $history);
        }
    }

    private function close(int $until): void
    {
        foreach ($this->open as $version) {
            $this->ended[] = self::until($version, $until);
        }
        $this->open = [];
    }

    private static function until(FoundVersion $version, int $until): FoundVersion
    {
        return new FoundVersion($version->path, $version->first, $until, $version->version, $version->id, $version->history);
    }
}
