<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Jobs\ReadBackCopies;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Sets\CopyOutline;
use App\Sets\Points;
use App\Sets\SetFiles;
use App\Sets\SetOutline;
use App\Trees\TreeJudge;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\PlaceIndex;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\ReadingList;
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
    /** @var list<array{int, list<array{string, CopyOutline}>}> in the order in which they are asked: set id, copies with their keys */
    private array $sets = [];

    /** Whether the sets beyond the chain, and the damaged copies, are among them already. */
    private bool $isComplete = false;

    /** @var array<int, PlaceIndex|null> */
    private array $indexes = [];

    /** @var array<string, ArchiveFile|null> */
    private array $archives = [];

    /** @var array<int, string> copy id => why it was found damaged */
    public array $failures = [];

    /** @var array<string, string> stores that fell silent while they were read => in what words */
    public array $silent = [];

    /** @var array<string, true> STORE/LABEL */
    private array $onShelf = [];

    /** @var array<string, int> set name => its turn in the reading list */
    private array $turns = [];

    /** @var array<string, string> set name => store to read it from */
    private array $preferred = [];

    public function __construct(
        private readonly Points $points,
        private readonly BackupSet $point,
        private readonly Route $route,
        ?ReadingList $list = null,
        private readonly CopyRule $rule = new CopyRule,
    ) {
        foreach ($list->readings ?? [] as $turn => $reading) {
            $this->turns[$reading->set->id] = $turn;
            $this->preferred[$reading->set->id] = $reading->copy->store;
        }
        $this->take($this->chain(), true);
    }

    public function placeOf(string $digest, array $failed = []): ?ContentPlace
    {
        $shelf = [];
        for ($order = 0; $this->reaches($order); $order++) {
            [$id, $copies] = $this->sets[$order];
            $place = $this->index($id)?->find($digest);
            if ($place === null) {
                continue;
            }
            foreach ($copies as [$key, $copy]) {
                if ($copy->offline !== []) {
                    $shelf += array_fill_keys(array_map(fn (string $label): string => "{$copy->store->name}/$label", $copy->offline), true);

                    continue;
                }
                if (isset(TreeJudge::of($this->points)->lost()->touchedIn($copy->id)[$digest])) {
                    continue;
                }
                if (
                    ! in_array($key, $failed, true) &&
                    ! isset($this->silent[$copy->store->name]) &&
                    ($archive = $this->archive($key, $copy)) !== null
                ) {
                    return new ContentPlace(
                        $key,
                        $this->turns[$this->points->sets[$id]->name] ?? count($this->turns) + $order,
                        $archive,
                        $place,
                    );
                }
            }
        }
        $this->onShelf += $shelf;

        return null;
    }

    /** @return list<string> STORE/LABEL of cartridges on the shelf that hold something for which nothing else was found */
    public function onShelf(): array
    {
        return array_keys($this->onShelf);
    }

    /** The id of the set whose archive a content would be read from, or null. */
    public function setOf(string $digest): ?int
    {
        for ($order = 0; $this->reaches($order); $order++) {
            [$id, $copies] = $this->sets[$order];
            if ($this->gives($copies, $digest) && $this->index($id)?->find($digest) !== null) {
                return $id;
            }
        }

        return null;
    }

    /**
     * Whether any of the copies may be counted on for a content.
     *
     * @param  list<array{string, CopyOutline}>  $copies
     */
    private function gives(array $copies, string $digest): bool
    {
        foreach ($copies as [, $copy]) {
            if (
                $copy->state->isReadable() ||
                ($copy->isPartlyReadable && ! isset(TreeJudge::of($this->points)->lost()->touchedIn($copy->id)[$digest]))
            ) {
                return true;
            }
        }

        return false;
    }

    public function archiveFailed(string $archiveKey, string $because): void
    {
        $id = (int) $archiveKey;
        if (isset($this->failures[$id])) {
            return;
        }
        $copy = $this->copy($archiveKey);
        if ($copy !== null && $this->isSilent($copy)) {
            return; // nothing is wrong with the copy: its store is not there any more
        }
        $this->failures[$id] = $because;
        if (
            Copy::query()
                ->whereKey($id)
                ->whereIn('state', ['ok', 'checked'])
                ->update(['state' => 'damaged', 'state_because' => mb_substr("The archive $because.", 0, 500)]) === 1
        ) {
            ReadBackCopies::dispatch([$id]); // to learn what else it no longer gives
        }
    }

    public function canBeReadTwice(array $archiveKeys): bool
    {
        foreach ($archiveKeys as $key) {
            if ($this->copy($key)?->store->kind !== 'folder') {
                return false;
            }
        }

        return true;
    }

    /** Whether there is a set at this place of the order; fetches the rest of them when the chain is at its end. */
    private function reaches(int $order): bool
    {
        if (isset($this->sets[$order])) {
            return true;
        }
        if ($this->isComplete) {
            return false;
        }
        $this->isComplete = true;
        $own = array_flip(array_map(fn (SetOutline $set): int => $set->id, $this->chain()));
        $others = array_filter($this->points->sets, fn (SetOutline $set): bool => ! isset($own[$set->id]));
        $instant = $this->point->instant;
        usort(
            $others,
            fn (SetOutline $a, SetOutline $b): int => $a->instant > $instant <=> $b->instant > $instant ?:
            abs($a->instant - $instant) <=> abs($b->instant - $instant),
        );
        $this->take($others, true);
        $this->take($this->chain(), false);
        $this->take($others, false);

        return isset($this->sets[$order]);
    }

    /** @return list<SetOutline> of the point's chain, the point first */
    private function chain(): array
    {
        return array_reverse($this->points->chain($this->point->name));
    }

    /** @param  list<SetOutline>  $sets */
    private function take(array $sets, bool $readable): void
    {
        foreach ($sets as $set) {
            $allowed = $readable ? array_map(fn ($copy): string => $copy->store, $this->rule->readable($set->set)) : null;
            $copies = [];
            foreach ($set->copies as $copy) {
                if ($copy->state->isReadable() === $readable && ($allowed === null || in_array($copy->store->name, $allowed, true))) {
                    $copies[] = [(string) $copy->id, $copy];
                }
            }
            if (count($copies) > 1) {
                $preferred = $this->preferred[$set->name] ?? '';
                usort(
                    $copies,
                    fn (array $a, array $b): int => ($b[1]->store->name === $preferred) <=> ($a[1]->store->name === $preferred) ?:
                    ($a[1]->state === CopyState::Offline) <=> ($b[1]->state === CopyState::Offline) ?:
                    $this->route->seconds($a[1]->store->name, $set->bytes) <=> $this->route->seconds($b[1]->store->name, $set->bytes),
                );
            }
            if ($copies !== []) {
                $this->sets[] = [$set->id, $copies];
            }
        }
    }

    private function isSilent(CopyOutline $copy): bool
    {
        $silence = $this->points->stores->of($copy->store)->silence(true);
        if ($silence !== null && $copy->state->isReadable()) {
            $this->silent[$copy->store->name] = $silence;
        }

        return $silence !== null;
    }

    private function copy(string $key): ?CopyOutline
    {
        foreach ($this->sets as [, $copies]) {
            foreach ($copies as [$own, $copy]) {
                if ($own === $key) {
                    return $copy;
                }
            }
        }

        return null;
    }

    private function index(int $id): ?PlaceIndex
    {
        if (! array_key_exists($id, $this->indexes)) {
            try {
                $this->indexes[$id] = PlaceIndex::open(SetFiles::placeIndex($id));
            } catch (RuntimeException) {
                $this->indexes[$id] = null;
            }
        }

        return $this->indexes[$id];
    }

    private function archive(string $key, CopyOutline $copy): ?ArchiveFile
    {
        if (! array_key_exists($key, $this->archives)) {
            try {
                $this->archives[$key] = $this->points->stores->of($copy->store)->open($copy->stored());
            } catch (UnreadableArchive) {
                $this->archives[$key] = null;
                $this->isSilent($copy);
            }
        }

        return $this->archives[$key];
    }
}
