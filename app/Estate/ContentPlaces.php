<?php

declare(strict_types=1);

namespace App\Estate;

use App\Models\BackupSet;
use App\Models\Copy;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\PlaceIndex;
use Kaiseki\Core\Chain\Chain;
use Kaiseki\Core\Chain\Route;
use Kaiseki\Core\Files\ContentPlace;
use Kaiseki\Core\Files\ContentSource;
use RuntimeException;

/**
 * Where the contents of a point stand: in the sets of its own chain first, then in any other set of the workload, and
 * last in copies that are known to be damaged, since one bad spot is not the loss of the whole.
 */
final class ContentPlaces implements ContentSource
{
    /** @var list<array{BackupSet, int, list<array{string, Copy}>}> in the order in which they are asked: set, its id, copies with their keys */
    private array $sets = [];

    /** @var array<int, PlaceIndex|null> */
    private array $indexes = [];

    /** @var array<string, ArchiveFile|null> */
    private array $archives = [];

    /** @var array<int, string> copy id => why it was found damaged */
    public array $failures = [];

    /** @param  array<string, string>  $preferred set name => store to read it from, as the reading list says */
    public function __construct(private readonly Points $points, BackupSet $point, Route $route, array $preferred = [])
    {
        $chain = $points->graph->chainOf($point->name);
        $own = $chain instanceof Chain ? array_flip(array_map(fn ($set): string => $set->id, $chain->sets)) : [];
        $sets = $points->sets->sortBy(fn (BackupSet $set): array => [isset($own[$set->name]) ? 0 : 1, $set->instant <= $point->instant ? 0 : 1, abs($point->instant - $set->instant)]);
        foreach ([true, false] as $readable) {
            foreach ($sets as $set) {
                $copies = $set->copies->filter(fn (Copy $copy): bool => $points->state($copy)->isReadable() === $readable)
                    ->sortBy(fn (Copy $copy): array => [($preferred[$set->name] ?? '') === $copy->store->name ? 0 : 1, $route->seconds($copy->store->name, $set->bytes)])->values()->all();
                if ($copies !== []) {
                    // The ids at hand as plain values: these lists are gone through once for each file.
                    $this->sets[] = [$set, $set->id, array_map(fn (Copy $copy): array => [(string) $copy->id, $copy], $copies)];
                }
            }
        }
    }

    public function placeOf(string $digest, array $failed = []): ?ContentPlace
    {
        foreach ($this->sets as $order => [$set, $id, $copies]) {
            $place = $this->index($id, $set)?->find($digest);
            if ($place === null) {
                continue;
            }
            foreach ($copies as [$key, $copy]) {
                if (! in_array($key, $failed, true) && ($archive = $this->archive($key, $copy)) !== null) {
                    return new ContentPlace($key, $order, $archive, $place);
                }
            }
        }

        return null;
    }

    /** The set whose archive a content would be read from, or null. */
    public function setOf(string $digest): ?BackupSet
    {
        foreach ($this->sets as [$set, $id]) {
            if ($this->index($id, $set)?->find($digest) !== null) {
                return $set;
            }
        }

        return null;
    }

    public function archiveFailed(string $archiveKey, string $because): void
    {
        $copy = (int) $archiveKey;
        if (! isset($this->failures[$copy])) {
            $this->failures[$copy] = $because;
            Copy::query()->whereKey($copy)->whereIn('state', ['ok', 'checked'])->update(['state' => 'damaged', 'state_because' => mb_substr("The archive $because.", 0, 500)]);
        }
    }

    private function index(int $id, BackupSet $set): ?PlaceIndex
    {
        if (! array_key_exists($id, $this->indexes)) {
            try {
                $this->indexes[$id] = PlaceIndex::open(SetFiles::placeIndex($set));
            } catch (RuntimeException) {
                $this->indexes[$id] = null;
            }
        }

        return $this->indexes[$id];
    }

    private function archive(string $key, Copy $copy): ?ArchiveFile
    {
        if (! array_key_exists($key, $this->archives)) {
            try {
                $this->archives[$key] = ArchiveFile::at($copy->file());
            } catch (UnreadableArchive) {
                $this->archives[$key] = null;
            }
        }

        return $this->archives[$key];
    }
}
