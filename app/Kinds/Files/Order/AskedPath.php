<?php

declare(strict_types=1);

namespace App\Kinds\Files\Order;

use App\Models\RecoveryRequest;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\CatalogSearch;
use App\Trees\Catalog\FoundVersion;
use App\Trees\Catalog\SearchQuery;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Instant;

/** What the requester's words for a path may mean: there, under a similar name, or at another time. */
final readonly class AskedPath
{
    public function __construct(private Worksheet $sheet)
    {
    }

    /** Where something that is not in this point was last, or first: a point that has it. */
    public function wasLastIn(): ?LastThere
    {
        $path = $this->sheet->absent[0] ?? ($this->sheet->selection === [] ? $this->path() : null);
        if ($path === null || $path === '' || $this->sheet->points === null) {
            return null;
        }
        $reader = new CatalogReader;
        if ($this->sheet->point !== null && $reader->at($this->sheet->point, $path) !== null) {
            return null;
        }
        $versions = $reader->versionsOf($this->sheet->points->workload, $path);
        if ($versions === []) {
            // The path as such never was; a thing of that name may have been elsewhere.
            $name = strtr(basename($path), ['*' => '', '?' => '']);
            $versions =
                mb_strlen($name) < 3 ? [] : (new CatalogSearch)->find($this->sheet->points->workload, new SearchQuery(name: $name), 300);
            usort($versions, fn (FoundVersion $a, FoundVersion $b): int => $a->first <=> $b->first);
        }
        $wanted = Instant::of($this->sheet->request->wanted_at)->microseconds;
        $before = array_filter($versions, fn (FoundVersion $version): bool => $version->first <= $wanted);
        $version = $before !== [] ? end($before) : $versions[0] ?? null;
        if ($version === null) {
            return null;
        }
        $set = null;
        foreach ($this->sheet->points->sets as $candidate) {
            if (
                $candidate->instant >= $version->first &&
                $candidate->instant < $version->until &&
                ($set === null || $candidate->instant <= $wanted)
            ) {
                $set = $candidate;
            }
        }

        return $set === null || $set->id === $this->sheet->point?->id
            ? null
            : new LastThere($version->path, $set, $set->instant > $wanted);
    }

    private function path(): ?string
    {
        return self::of($this->sheet->request);
    }

    /** The path that the requester named, as paths are written here; null if it is none. */
    public static function of(RecoveryRequest $request): ?string
    {
        try {
            return EntryPath::of(trim(str_replace('\\', '/', preg_replace('/^[A-Za-z]:/', '', $request->lost ?? '') ?? ''), '/'));
        } catch (UnsafePath) {
            return null;
        }
    }

    /**
     * What the words of the requester may mean in this point: the path itself, or the same or a similar name elsewhere.
     *
     * @return list<string>
     */
    public function guesses(): array
    {
        $path = $this->path();
        if ($this->sheet->request->lost === null || $path === null || $this->sheet->point === null) {
            return [];
        }
        $reader = new CatalogReader;
        if ($path !== '' && $reader->at($this->sheet->point, $path) !== null) {
            return [$path];
        }
        $workload = $this->sheet->request->workload;
        assert($workload !== null);
        $guesses = [];
        $name = basename($path);
        $names = array_unique([$name, strtr($name, ' ', '-'), preg_replace('/[\s_-]+\S*$/', '', $name) ?? '']);
        foreach ($names as $name) {
            if (mb_strlen($name) < 3) {
                continue;
            }
            foreach (
                (new CatalogSearch)->find(
                    $workload,
                    new SearchQuery(
                        name: strtr($name, ['*' => '', '?' => '']),
                        from: $this->sheet->point->instant,
                        to: $this->sheet->point->instant,
                    ),
                    300,
                ) as $found
            ) {
                similar_text(mb_strtolower($path), mb_strtolower($found->path), $alike);
                $guesses[$found->path] = $alike;
            }
        }
        arsort($guesses);

        return array_slice(array_map(strval(...), array_keys($guesses)), 0, 6);
    }
}
