<?php

declare(strict_types=1);

namespace App\Orders;

use App\Catalog\CatalogReader;
use App\Estate\CannotPlan;
use App\Estate\PlanOfReading;
use App\Estate\Points;
use App\Instance;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Runs\RestorePlan;
use App\Runs\Targets;
use App\Trust\BestTree;
use App\View\Words;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Order\WantedSpan;
use Kaiseki\Core\Order\WantedWords;

/** What is settled for a request, what it means, and what still stands in the way of running it. */
final class Worksheet
{
    /** Present things are looked for up to so many entries; a larger selection is counted when it runs. */
    private const LOOK_UP_TO = 20_000;

    public readonly ?Points $points;

    public readonly Demands $demands;

    public readonly FoundPoint $found;

    /** The point in hand: the operator's own choice, or the proposed one. */
    public readonly ?BackupSet $point;

    /** @var list<string> */
    public readonly array $selection;

    /** @var list<string> selected, but not in the point */
    public readonly array $absent;

    public readonly ?PlanOfReading $reading;

    /** What is taken from other points than the one in hand; null if everything is from that. */
    public readonly ?BestTree $best;

    public readonly ?string $target;

    /** @var list<string> */
    public readonly array $blockers;

    private ?string $readingBlocked = null;

    /** @var array<int, list<array{path: string, newer: bool, size: int}>> */
    private array $present = [];

    public function __construct(public readonly RecoveryRequest $request)
    {
        $this->points = $request->workload === null ? null : new Points($request->workload);
        $this->demands = Demands::parse($request->demands);
        $this->selection = $request->selectedPaths();
        $this->found = $this->points?->find(Instant::of($request->wanted_at), $this->demands, $this->selection === [] || $this->selection === [''] ? null : $this->selection)
            ?? new FoundPoint(null, null, [], null, null);
        $this->point = $this->pointInHand();
        $this->best = $this->bestAcross();
        $reader = new CatalogReader;
        $point = $this->point;
        $this->absent = $point === null || $this->best !== null ? [] : array_values(array_filter($this->selection, fn (string $path): bool => ! $reader->has($point, $path)));
        $this->reading = $this->plan();
        $this->target = $this->targetFolder();
        $this->blockers = $this->whatStandsInTheWay();
    }

    private function pointInHand(): ?BackupSet
    {
        $own = $this->points?->sets[$this->request->set_id ?? 0] ?? null;

        if ($this->request->across_points && $own === null) {
            $newest = $this->points?->lastBefore(Instant::of($this->request->wanted_at));

            return $newest === null ? null : $this->points?->model($newest);
        }

        return $own !== null ? $this->points?->model($own) : $this->points?->modelOf($this->found->set);
    }

    private function bestAcross(): ?BestTree
    {
        $set = $this->points?->sets[$this->point->id ?? 0] ?? null;

        return ! $this->request->across_points || $this->points === null || $set === null ? null : BestTree::of($this->points, $set, $this->selection === [] ? [''] : $this->selection, $this->demands->clear);
    }

    /** That newer points were passed over though most of what is in them is right; null if that is not so. */
    public function cleanInstead(): ?string
    {
        $newest = $this->points?->lastBefore(Instant::of($this->request->wanted_at));
        if ($newest === null || $this->point === null || $newest->id === $this->point->id || $newest->history !== $this->point->history_id || $this->isOwnChoice()) {
            return null;
        }
        $lost = $this->points?->lost->counts()[$newest->id] ?? 0;
        $wrong = $newest->doubtful + $lost;
        if ($wrong === 0 || $wrong >= $newest->treeFiles) {
            return null;
        }

        return sprintf('A newer point has %s that %s in doubt or lost, and %s that are not.', Words::count($wrong, 'file'), $wrong === 1 ? 'is' : 'are', number_format($newest->treeFiles - $wrong));
    }

    public function isOwnChoice(): bool
    {
        return $this->request->set_id !== null;
    }

    public function conflict(): ConflictRule
    {
        return ConflictRule::from($this->request->conflict);
    }

    /** Seconds between the recovered state and the wanted moment; negative if the point is later. */
    public function lossSeconds(): int|float|null
    {
        return $this->point === null ? null : Instant::of($this->point->captured_at)->secondsUntil(Instant::of($this->request->wanted_at));
    }

    /** How the words for the wanted moment were taken; null where it was plain. */
    public function wantedSpan(): ?WantedSpan
    {
        if ($this->request->wanted_words === null) {
            return null;
        }
        try {
            return (new WantedWords(Instant::of($this->request->wanted_said_at ?? $this->request->created_at), $this->request->wanted_zone ?? 'UTC'))->read($this->request->wanted_words);
        } catch (InvalidArgumentException) {
            return null;
        }
    }

    /** @return list<string> of what is selected, or of everything, the paths that this point does not give back; the first hundred */
    public function missing(): array
    {
        $set = $this->points?->sets[$this->point->id ?? 0] ?? null;

        return $set === null ? [] : $this->points->lost->pathsAt($set, $this->selection === [] ? null : $this->selection, 100);
    }

    public function whatInWords(): string
    {
        if ($this->selection === []) {
            return 'something not picked yet';
        }
        if ($this->selection === ['']) {
            return 'everything';
        }
        $reading = $this->reading;
        if ($reading === null || $reading->entries === 0) {
            return Words::count(count($this->selection), 'path');
        }

        return $reading->files === 0 ? Words::count($reading->entries, 'entry', 'entries') : Words::count($reading->files, 'file').', '.Words::size($reading->bytes);
    }

    public function whereInWords(): string
    {
        return match ($this->request->destination) {
            'own-place' => 'its own place',
            'folder' => $this->request->destination_folder === null ? 'a folder not named yet' : 'the folder /'.Shown::name($this->request->destination_folder),
            default => 'a new folder on the same host',
        };
    }

    public function sentence(string $zone): string
    {
        return sprintf(
            'Put back %s from %s as it was on %s%s into %s, %s%s, and check it by digest, size, mode and time.',
            $this->whatInWords(), $this->request->workload->name ?? 'a workload not settled yet', $this->point === null ? 'a moment not settled yet' : Words::moment($this->point->captured_at, $zone),
            $this->best === null ? '' : ', each file from the newest point at which it is right,', $this->whereInWords(), $this->conflict()->words(), $this->request->flat ? ', all in one folder' : '',
        );
    }

    /** Changes whenever the order does: what is confirmed must be what was shown. */
    public function fingerprint(): string
    {
        return hash('sha256', implode("\0", [$this->sentence('UTC'), (string) $this->point?->id, (string) $this->target, ...$this->selection, '', ...$this->request->use_copies ?? [], '', ...$this->request->avoid_copies ?? []]));
    }

    /** @return list<array{path: string, newer: bool, size: int}> things that stand where something would be put, up to a limit */
    public function present(int $limit = 200): array
    {
        return $this->present[$limit] ??= $this->lookAtTarget($limit);
    }

    /** @return list<array{path: string, newer: bool, size: int}> */
    private function lookAtTarget(int $limit): array
    {
        if ($this->request->destination === 'new-folder' || $this->point === null || $this->target === null || ($this->reading->entries ?? 0) > self::LOOK_UP_TO) {
            return [];
        }
        $present = [];
        foreach ((new CatalogReader)->entriesBelow($this->point, $this->selection) as $path => $packed) {
            $place = $this->target.'/'.($this->request->flat ? basename($path) : $path);
            if ($packed[0] === 'd' || ($now = @lstat($place)) === false) {
                continue;
            }
            $present[] = ['path' => $path, 'newer' => $now['mtime'] > intdiv(Version::columns($packed)['mtime'], 1_000_000_000), 'size' => $now['size']];
            if (count($present) >= $limit) {
                break;
            }
        }

        return $present;
    }

    public function freeBytes(): int
    {
        $folder = $this->target ?? '/';
        while (! is_dir($folder)) {
            $folder = dirname($folder);
        }

        return (int) (@disk_free_space($folder) ?: 0);
    }

    /** Whether a set of what is there now can be made before the run writes over it. */
    public function canSaveFirst(): bool
    {
        return $this->request->destination !== 'new-folder' && $this->request->workload?->source !== null && is_dir($this->request->workload->source);
    }

    public function restorePlan(): RestorePlan
    {
        assert($this->target !== null && $this->point !== null);

        return new RestorePlan(
            $this->selection, $this->target, $this->conflict(), $this->point->captured_at->format('Y-m-d Hi'), $this->sentence('UTC'),
            $this->request->destination === 'own-place', $this->request->flat, false, Targets::isNew($this->target), $this->request->copyRule(), $this->best === null ? '' : ($this->demands->clear ? 'clear' : 'readable'),
        );
    }

    private function plan(): ?PlanOfReading
    {
        if ($this->points === null || $this->point === null || $this->selection === []) {
            return null;
        }
        try {
            $entries = $this->best?->over((new CatalogReader)->entriesBelow($this->point, $this->selection));

            return PlanOfReading::for($this->points, $this->point, $this->selection, null, $this->request->copyRule(), $entries);
        } catch (CannotPlan $cannot) {
            $this->readingBlocked = $cannot->getMessage();

            return null;
        }
    }

    private function targetFolder(): ?string
    {
        $source = $this->request->workload?->source;
        $runs = $this->request->runs->count();

        return match ($this->request->destination) {
            'own-place' => $source,
            'folder' => $source === null || $this->request->destination_folder === null ? null : rtrim("$source/{$this->request->destination_folder}", '/'),
            default => ($source === null ? Instance::path('restored') : dirname($source).'/restored')."/request-{$this->request->id}".($runs > 0 ? '-'.($runs + 1) : ''),
        };
    }

    /** @return list<string> */
    private function whatStandsInTheWay(): array
    {
        $blockers = [];
        if ($this->points === null) {
            return ['Which workload it is about is not settled.'];
        }
        if ($this->point === null) {
            $blockers[] = 'No usable point at or before the wanted moment.';
        }
        if ($this->selection === []) {
            $blockers[] = 'Nothing is picked yet.';
        }
        if ($this->absent !== []) {
            $blockers[] = '"/'.Shown::name($this->absent[0]).'" is not in this point.';
        }
        if ($this->reading !== null && $this->reading->files > 0 && $this->reading->missing >= $this->reading->files) {
            $blockers[] = 'None of it can be read from any archive.';
        }
        if ($this->readingBlocked !== null) {
            $blockers[] = $this->readingBlocked;
        }
        if ($this->target === null) {
            $blockers[] = $this->request->workload?->source === null ? 'The original has no place that is known here.' : 'The folder is not named yet.';
        } elseif ($this->request->destination !== 'new-folder') {
            try {
                Targets::refuseUnfit($this->target);
            } catch (UnableToRestore $unfit) {
                $blockers[] = $unfit->getMessage();
            }
        }
        if ($this->reading !== null && $this->freeBytes() < $this->reading->bytes) {
            $blockers[] = 'The volume of the target has only '.Words::size($this->freeBytes()).' free.';
        }
        if (in_array($this->request->state, ['running', 'closed'], true)) {
            $blockers[] = $this->request->state === 'running' ? 'A run for this request is at work.' : 'The request is closed.';
        }

        return $blockers;
    }
}
