<?php

declare(strict_types=1);

namespace App\Orders;

use App\Catalog\CatalogReader;
use App\Catalog\FoundVersion;
use App\Estate\CannotPlan;
use App\Estate\CopyOutline;
use App\Estate\PlanOfReading;
use App\Estate\Points;
use App\Estate\SetOutline;
use App\Instance;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Store;
use App\Runs\RestorePlan;
use App\Runs\Targets;
use App\View\Words;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Estimate\RestoreEstimate;
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
        $reader = new CatalogReader;
        $point = $this->point;
        $this->absent = $point === null ? [] : array_values(array_filter($this->selection, fn (string $path): bool => ! $reader->has($point, $path)));
        $this->reading = $this->plan();
        $this->target = $this->targetFolder();
        $this->blockers = $this->whatStandsInTheWay();
    }

    private function pointInHand(): ?BackupSet
    {
        $own = $this->points?->sets[$this->request->set_id ?? 0] ?? null;

        return $own !== null ? $this->points?->model($own) : $this->points?->modelOf($this->found->set);
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

    /** Why this point, in a sentence or two. */
    public function reason(string $zone): string
    {
        $point = $this->point;
        $found = $this->found;
        $loss = (float) ($this->lossSeconds() ?? 0);
        if ($point === null) {
            return $this->whyNoPoint($zone);
        }
        $lost = $loss > 0 ? ' What changed in the hatched '.Words::duration($loss).' is not in it.' : '';
        if ($this->request->wanted_at->isFuture()) {
            $lost = ' The wanted moment is still to come.'.$lost;
        }
        if ($this->isOwnChoice()) {
            return 'Your own choice of point.'.($loss < 0 ? ' It is later than the wanted moment: what went wrong may be in it.' : $lost);
        }
        if ($found->passedOver === []) {
            return 'The newest good point before the wanted moment.'.$lost;
        }
        $first = $found->passedOver[0];

        return sprintf(
            'The newest good point; %s passed over: %s, since %s%s.%s', count($found->passedOver) === 1 ? 'one newer was' : count($found->passedOver).' newer were',
            Words::moment($first->set->capturedAt->in(), $zone, false), $first->because, count($found->passedOver) > 1 ? ', and so on below' : '', $lost,
        );
    }

    private function whyNoPoint(string $zone): string
    {
        $wanted = Instant::of($this->request->wanted_at);
        $sets = $this->points->sets ?? [];
        $first = reset($sets);
        if ($first === false) {
            return 'There is no point yet: nothing was ever made or adopted for this workload.';
        }
        if ($first->instant > $wanted->microseconds) {
            return 'The wanted moment is before the first point, '.Words::moment($first->capturedAt(), $zone).'. Take the nearest after, or set another moment.';
        }
        $passed = $this->found->passedOver[0] ?? null;

        return 'There is no usable point at or before the wanted moment that meets the demands'.($passed === null ? '' : ': '.Words::moment($passed->set->capturedAt->in(), $zone, false).", since {$passed->because}").'. Take a demand away, or choose a point below.';
    }

    /** @return list<string> of what is selected, or of everything, the paths that this point does not give back; the first hundred */
    public function missing(): array
    {
        $set = $this->points?->sets[$this->point->id ?? 0] ?? null;

        return $set === null ? [] : $this->points->lost->pathsAt($set, $this->selection === [] ? null : $this->selection, 100);
    }

    /** How the words for the wanted moment were taken. */
    public function assumption(): ?string
    {
        return $this->wantedSpan()?->assumption;
    }

    /** The second instant that the words may mean, in the night in which clocks are set back. */
    public function otherMoment(): ?Instant
    {
        return $this->wantedSpan()?->other;
    }

    private function wantedSpan(): ?WantedSpan
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
            'Put back %s from %s as it was on %s into %s, %s%s, and check it by digest, size, mode and time.',
            $this->whatInWords(), $this->request->workload->name ?? 'a workload not settled yet', $this->point === null ? 'a moment not settled yet' : Words::moment($this->point->captured_at, $zone),
            $this->whereInWords(), $this->conflict()->words(), $this->request->flat ? ', all in one folder' : '',
        );
    }

    /** Changes whenever the order does: what is confirmed must be what was shown. */
    public function fingerprint(): string
    {
        return hash('sha256', implode("\0", [$this->sentence('UTC'), (string) $this->point?->id, (string) $this->target, ...$this->selection]));
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

    /** A store of ours beside the target that sets can be brought to; null if there is none. */
    public function nearStore(): ?Store
    {
        return $this->points?->stores->all()->first(fn (Store $store): bool => $store->kind === 'folder' && ! $store->read_only && $store->site === $this->request->workload?->site);
    }

    /** @return list<int> ids of the sets that would be read from tape or over a lane, though a store stands beside the target */
    public function farSets(): array
    {
        $near = $this->nearStore();
        $far = [];
        foreach ($this->reading->list->readings ?? [] as $line) {
            $set = $this->points?->set($line->set->id);
            if ($set !== null && $near !== null && $line->copy->store !== $near->name && array_filter($set->copies, fn (CopyOutline $copy): bool => $copy->store->id === $near->id && $copy->state !== CopyState::Missing) === []) {
                $far[] = $set->id;
            }
        }

        return $far;
    }

    /** @return list<array{store: Store, sets: int, best: ?RestoreEstimate, only: ?RestoreEstimate, without: ?RestoreEstimate, choice: string}> what naming a store costs; null where it cannot be done so */
    public function copyChoices(): array
    {
        $reading = $this->reading;
        if ($reading === null || $this->points === null) {
            return [];
        }
        $rule = $this->request->copyRule();
        $choices = [];
        foreach ($reading->copiesByStore() as $name => $sets) {
            // Each with what is settled for the other stores.
            [$use, $avoid] = [array_values(array_diff($rule->use, [$name])), array_values(array_diff($rule->avoid, [$name]))];
            $choices[] = [
                'store' => $this->points->stores->all()->firstOrFail('name', $name), 'sets' => $sets, 'best' => $reading->estimateWith(new CopyRule($use, $avoid)),
                'only' => $reading->estimateWith(new CopyRule([...$use, $name], $avoid)), 'without' => $reading->estimateWith(new CopyRule($use, [...$avoid, $name])),
                'choice' => in_array($name, $rule->use, true) ? 'use' : (in_array($name, $rule->avoid, true) ? 'avoid' : 'best'),
            ];
        }
        foreach ($rule->avoid as $name) {
            $store = $this->points->stores->all()->firstWhere('name', $name);
            if ($store !== null && ! isset($reading->copiesByStore()[$name])) {
                $choices[] = ['store' => $store, 'sets' => 0, 'best' => null, 'only' => null, 'without' => $reading->estimate, 'choice' => 'avoid'];
            }
        }

        return $choices;
    }

    public function freeBytes(): int
    {
        $folder = $this->target ?? '/';
        while (! is_dir($folder)) {
            $folder = dirname($folder);
        }

        return (int) (@disk_free_space($folder) ?: 0);
    }

    public function restorePlan(): RestorePlan
    {
        assert($this->target !== null && $this->point !== null);

        return new RestorePlan(
            $this->selection, $this->target, $this->conflict(), $this->point->captured_at->format('Y-m-d Hi'), $this->sentence('UTC'),
            $this->request->destination === 'own-place', $this->request->flat, false, Targets::isNew($this->target), $this->request->copyRule(),
        );
    }

    private function plan(): ?PlanOfReading
    {
        if ($this->points === null || $this->point === null || $this->selection === []) {
            return null;
        }
        try {
            return PlanOfReading::for($this->points, $this->point, $this->selection, null, $this->request->copyRule());
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

    /**
     * Where something that is not in this point was last, or first: a point that has it.
     *
     * @return array{path: string, set: SetOutline, isLater: bool}|null
     */
    public function wasLastIn(): ?array
    {
        $path = $this->absent[0] ?? ($this->selection === [] ? $this->askedPath() : null);
        if ($path === null || $path === '' || $this->points === null) {
            return null;
        }
        $reader = new CatalogReader;
        if ($this->point !== null && $reader->at($this->point, $path) !== null) {
            return null;
        }
        $versions = $reader->versionsOf($this->points->workload, $path);
        if ($versions === []) {
            // The path as such never was; a thing of that name may have been elsewhere.
            $name = strtr(basename($path), ['*' => '', '?' => '']);
            $versions = mb_strlen($name) < 3 ? [] : $reader->find($this->points->workload, $name, null, null, 300);
            usort($versions, fn (FoundVersion $a, FoundVersion $b): int => $a->first <=> $b->first);
        }
        $wanted = Instant::of($this->request->wanted_at)->microseconds;
        $before = array_filter($versions, fn (FoundVersion $version): bool => $version->first <= $wanted);
        $version = $before !== [] ? end($before) : ($versions[0] ?? null);
        if ($version === null) {
            return null;
        }
        $set = null;
        foreach ($this->points->sets as $candidate) {
            if ($candidate->instant >= $version->first && $candidate->instant < $version->until && ($set === null || $candidate->instant <= $wanted)) {
                $set = $candidate;
            }
        }

        return $set === null || $set->id === $this->point?->id ? null : ['path' => $version->path, 'set' => $set, 'isLater' => $set->instant > $wanted];
    }

    /** The path that the requester named, as paths are written here; null if it is none. */
    private function askedPath(): ?string
    {
        try {
            return EntryPath::of(trim(str_replace('\\', '/', preg_replace('/^[A-Za-z]:/', '', $this->request->lost ?? '') ?? ''), '/'));
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
        $path = $this->askedPath();
        if ($this->request->lost === null || $path === null || $this->point === null) {
            return [];
        }
        $reader = new CatalogReader;
        if ($path !== '' && $reader->at($this->point, $path) !== null) {
            return [$path];
        }
        $workload = $this->request->workload;
        assert($workload !== null);
        $guesses = [];
        foreach (array_unique([basename($path), strtr(basename($path), ' ', '-'), preg_replace('/[\s_-]+\S*$/', '', basename($path)) ?? '']) as $name) {
            if (mb_strlen($name) < 3) {
                continue;
            }
            foreach ($reader->find($workload, strtr($name, ['*' => '', '?' => '']), $this->point->instant, $this->point->instant, 300) as $found) {
                similar_text(mb_strtolower($path), mb_strtolower($found->path), $alike);
                $guesses[$found->path] = $alike;
            }
        }
        arsort($guesses);

        return array_slice(array_map(strval(...), array_keys($guesses)), 0, 6);
    }
}
