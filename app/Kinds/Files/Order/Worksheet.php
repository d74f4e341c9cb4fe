<?php

declare(strict_types=1);

namespace App\Kinds\Files\Order;

use App\Hosts\Hosts;
use App\Kinds\OrderSheet;
use App\Kinds\Touched;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Rights\PersonRights;
use App\Sets\CannotPlan;
use App\Sets\CopyChoices;
use App\Sets\Points;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Places\BestTree;
use App\Trees\Places\PlanOfReading;
use App\Trees\Run\Download;
use App\Trees\Run\HandSheetOf;
use App\Trees\Run\PlannedOrder;
use App\Trees\Run\RestorePlan;
use App\Trees\Run\Targets;
use App\Trees\Run\TouchedFolder;
use App\Trees\TreeJudge;
use App\Words;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Chain\Reading;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Files\Deed;
use Kaiseki\Core\Files\Status;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Proof\PermissionSheet;

/** What is settled for a request, what it means, and what still stands in the way of running it. */
final class Worksheet implements OrderSheet
{
    /** What stands in the target is looked at up to so many entries, unless it is asked for. */
    private const LOOK_UP_TO = 5_000;

    public readonly FilesSaid $said;

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
    /** Whether what is selected is what was asked for, since nobody picked anything yet. */
    public readonly bool $isPickedAsAsked;

    public readonly ?BestTree $best;

    public readonly Destination $destination;

    public readonly ?string $target;

    /** @var list<string> */
    public readonly array $blockers;

    private ?string $readingBlocked = null;

    private ?OrderPreview $preview = null;

    private ?string $previewBlocked = null;

    public function __construct(public readonly RecoveryRequest $request)
    {
        $this->points = $request->workload === null ? null : new Points($request->workload);
        $this->demands = Demands::parse($request->demands);
        $this->said = FilesSaid::of($request);
        $asked = $this->said->selection === [] && ! $this->said->isPicked ? AskedPath::of($request) : null;
        $foundAsked = $asked === null || $asked === '' ? null : $this->findFor([$asked]);
        $this->isPickedAsAsked = $foundAsked !== null && $this->isThere((string) $asked, $foundAsked);
        $this->selection = $this->isPickedAsAsked ? [(string) $asked] : $this->said->paths();
        $this->found = $this->isPickedAsAsked ? $foundAsked : $this->findFor($this->selection);
        $this->point = $this->pointInHand($this->found);
        $this->best = $this->bestAcross();
        $reader = new CatalogReader;
        $point = $this->point;
        $this->absent =
            $point === null || $this->best !== null
                ? []
                : array_values(array_filter($this->selection, fn (string $path): bool => ! $reader->has($point, $path)));
        $this->reading = $this->plan();
        $this->destination = Destination::of($request);
        $this->target = $this->destination->folder;
        $this->blockers = $this->whatStandsInTheWay();
    }

    public function request(): RecoveryRequest
    {
        return $this->request;
    }

    public function blockers(): array
    {
        return $this->blockers;
    }

    public function lookAgain(): void
    {
        // it always is as it stands now
    }

    public function previewCounts(): array
    {
        return array_map(get_object_vars(...), $this->preview(true)->counts ?? []);
    }

    public function runAttributes(bool $setFirst): array
    {
        $plan = $setFirst ? $this->restorePlan()->withSetFirst() : $this->restorePlan();
        if ($this->destination->kind === 'new-folder') {
            $above = dirname($plan->target);
            try {
                Hosts::target(null, $above, Targets::root(null, $above)); // makes it
            } catch (UnableToRestore) {
                // the run finds the same, and fails with it
            }
        }

        return [
            'set_id' => $this->point?->id,
            'plan' => $plan->toArray(),
            'files_total' => $this->reading->files ?? 0,
            'bytes_total' => $this->reading->bytes ?? 0,
        ] + [
            'is_whole' => in_array('', $this->selection, true),
            'taken_as' => ['zip' => 'zip', 'tar' => 'tar.gz'][$plan->download] ?? null,
        ];
    }

    /** @param  list<string>  $selection */
    private function findFor(array $selection): FoundPoint
    {
        return $this->points?->find(
            Instant::of($this->request->wanted_at),
            $this->demands,
            $selection === [] || $selection === [''] ? null : $selection,
        ) ?? new FoundPoint(null, null, [], null, null);
    }

    /** Whether the point that would be in hand has a path. */
    private function isThere(string $path, FoundPoint $found): bool
    {
        $point = $this->pointInHand($found);

        return $point !== null && (new CatalogReader)->has($point, $path);
    }

    private function pointInHand(FoundPoint $found): ?BackupSet
    {
        $own = $this->points?->sets[$this->request->set_id ?? 0] ?? null;

        if ($this->said->acrossPoints && $own === null) {
            $newest = $this->points?->lastBefore(Instant::of($this->request->wanted_at));

            return $newest === null ? null : $this->points?->model($newest);
        }

        return $own !== null ? $this->points?->model($own) : $this->points?->modelOf($found->set);
    }

    private function bestAcross(): ?BestTree
    {
        $set = $this->points?->sets[$this->point->id ?? 0] ?? null;

        return ! $this->said->acrossPoints || $this->said->permissionsOnly || $this->points === null || $set === null
            ? null
            : BestTree::of($this->points, $set, $this->selection === [] ? [''] : $this->selection, $this->demands->clear);
    }

    /** That newer points were passed over though most of what is in them is right; null if that is not so. */
    public function cleanInstead(): ?string
    {
        $newest = $this->points?->lastBefore(Instant::of($this->request->wanted_at));
        if (
            $this->points === null ||
            $newest === null ||
            $this->point === null ||
            $newest->id === $this->point->id ||
            $newest->history !== $this->point->history_id ||
            $this->isOwnChoice()
        ) {
            return null;
        }
        $lost = TreeJudge::of($this->points)->lost()->counts()[$newest->id] ?? 0;
        $wrong = $newest->doubtful + $lost;
        if ($wrong === 0 || $wrong >= $newest->treeFiles) {
            return null;
        }

        return sprintf(
            'A newer point has %s that %s in doubt or lost, and %s that are not.',
            Words::count($wrong, 'file'),
            $wrong === 1 ? 'is' : 'are',
            number_format($newest->treeFiles - $wrong),
        );
    }

    public function isOwnChoice(): bool
    {
        return $this->request->set_id !== null;
    }

    public function conflict(): ConflictRule
    {
        return ConflictRule::from($this->said->conflict);
    }

    /** Seconds between the recovered state and the wanted moment; negative if the point is later. */
    public function lossSeconds(): int|float|null
    {
        return $this->point === null ? null : Instant::of($this->point->captured_at)->secondsUntil(Instant::of($this->request->wanted_at));
    }

    /** @return list<string> of what is selected, or of everything, the paths that this point does not give back; the first hundred */
    public function missing(): array
    {
        $set = $this->points?->sets[$this->point->id ?? 0] ?? null;

        return $set === null || $this->points === null || $this->said->permissionsOnly
            ? []
            : TreeJudge::of($this->points)
                ->lost()
                ->pathsAt($set, $this->selection === [] ? null : $this->selection, 100);
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

        return $reading->files === 0
            ? Words::count($reading->entries, 'entry', 'entries')
            : Words::count($reading->files, 'file').', '.Words::size($reading->bytes);
    }

    /** What is selected, counted with its folders. */
    public function thingsInWords(): string
    {
        return match (true) {
            $this->selection === [] => 'something not picked yet',
            $this->reading === null => Words::count(count($this->selection), 'path'),
            default => Words::count($this->reading->entries, 'thing'),
        };
    }

    /** What happens where something stands already; nothing can in a download. */
    public function conflictInWords(): string
    {
        $rules = count($this->said->conflictIn);

        return match (true) {
            $this->destination->isDownload() => 'touching nothing there',
            $rules > 0 => $this->conflict()->words().' (but otherwise in '.Words::count($rules, 'folder').')',
            default => $this->conflict()->words(),
        };
    }

    public function sentence(string $zone): string
    {
        if ($this->said->permissionsOnly) {
            return sprintf(
                'Give %s of %s, in %s, the permissions of %s: mode, owner, group and access list. What is in them stays as it is.',
                $this->thingsInWords(),
                $this->request->workload->name ?? 'a workload not settled yet',
                $this->destination->words,
                $this->point === null ? 'a moment not settled yet' : Words::moment($this->point->captured_at, $zone),
            );
        }

        return sprintf(
            'Put back %s from %s as it was on %s%s into %s, %s%s, and check it by digest, size, mode and time.',
            $this->whatInWords(),
            $this->request->workload->name ?? 'a workload not settled yet',
            $this->point === null ? 'a moment not settled yet' : Words::moment($this->point->captured_at, $zone),
            $this->best === null ? '' : ', each file from the newest point at which it is right,',
            $this->destination->words,
            $this->conflictInWords(),
            $this->renamedInWords().($this->said->flat ? ', all in one folder' : ''),
        );
    }

    private function renamedInWords(): string
    {
        return $this->newName() === '' ? '' : ', named '.Shown::name($this->newName());
    }

    /** Another name for the one thing that is selected; '' for its own. */
    public function newName(): string
    {
        return count($this->selection) === 1 && $this->selection[0] !== '' ? rawurldecode($this->said->renameTo) : '';
    }

    /** Changes whenever the order does, or what stands in its target: what is confirmed must be what was shown. */
    public function fingerprint(): string
    {
        $plan =
            ($this->target === null && ! $this->destination->isDownload()) || $this->point === null ? [] : $this->restorePlan()->toArray();
        unset($plan['sentence'], $plan['target_is_new'], $plan['set_first']);

        return hash(
            'sha256',
            json_encode(
                [
                    $plan,
                    $this->sentence('UTC'),
                    $this->point?->id,
                    $this->destination->isInUse() ? $this->preview(true)?->fingerprint : null,
                ],
                JSON_THROW_ON_ERROR,
            ),
        );
    }

    /**
     * What a run would do to the target as it is now; null where that is not settled, cannot be seen, or is too much to be
     * looked at by the way.
     */
    public function preview(bool $whatever = false): ?OrderPreview
    {
        if (
            $this->preview !== null ||
            $this->target === null ||
            $this->point === null ||
            $this->points === null ||
            $this->reading === null
        ) {
            return $this->preview;
        }
        if ($this->previewBlocked !== null || (! $whatever && $this->reading->entries > self::LOOK_UP_TO)) {
            return null;
        }
        try {
            return $this->preview = OrderPreview::of($this->barePlan(), $this->point, $this->points, isFolded: true);
        } catch (UnableToRestore $unable) {
            $this->previewBlocked = $unable->getMessage();

            return null;
        }
    }

    /** The same, with those of its lines that fit. */
    public function filteredPreview(string $filter, ?Deed $only, int $first, bool $isFolded): ?OrderPreview
    {
        if ($this->target === null || $this->point === null || $this->points === null || $this->reading === null) {
            return null;
        }
        try {
            return OrderPreview::of($this->barePlan(), $this->point, $this->points, $filter, $only, $first, $isFolded);
        } catch (UnableToRestore $unable) {
            $this->previewBlocked = $unable->getMessage();

            return null;
        }
    }

    /** Whether what it would do to things that are there needs a second person. */
    public function needsApproval(): bool
    {
        return $this->destination->isInUse() && $this->marked() !== [] && ($this->preview(true)?->changed() ?? 0) > 0;
    }

    public function marked(): array
    {
        $own = $this->request->workload;

        return [...$own?->needs_approval === true ? [$own] : [], ...$this->touches()->marked()];
    }

    public function touches(): Touched
    {
        return $this->destination->isDownload() || ($this->target === null && $this->destination->host === null)
            ? Touched::nothing()
            : new Touched([TouchedFolder::of($this->destination->host, $this->target ?? '', $this->destination->isInUse())]);
    }

    public function sets(): array
    {
        return $this->point === null ? [] : [$this->point->id];
    }

    public function refusedTo(User $user): ?string
    {
        $reach = PersonRights::of($user);
        $list = $this->reading?->list;
        $read = array_map(fn (Reading $reading): string => $reading->copy->store, $list->readings ?? []);

        return $reach->refusesStores($this->request->copyRule()) ??
            ($reach->refusesReading(array_values(array_unique($read))) ?? $this->touches()->refusedTo($user));
    }

    /** Whether a set of what is there now can be made before the run writes over it. */
    public function canSaveFirst(): bool
    {
        return in_array($this->destination->kind, ['own-place', 'folder'], true) &&
            Hosts::original($this->request->workload?->source)?->status('')?->type === Status::FOLDER;
    }

    /** The order as it is carried out, with what was seen in its target. */
    public function restorePlan(): RestorePlan
    {
        return $this->barePlan()->withPreview($this->destination->isInUse() ? $this->preview(true)->fingerprint ?? '' : '');
    }

    public function copies(): ?CopyChoices
    {
        if ($this->points === null) {
            return null;
        }
        $any = $this->reading;
        if ($any === null && $this->point !== null && $this->selection !== []) {
            try {
                $any = PlanOfReading::for($this->points, $this->point, $this->selection);
            } catch (CannotPlan) {
                $any = null;
            }
        }

        return new CopyChoices($this->points, $this->request, $this->reading, $any);
    }

    public function handSheet(): ?iterable
    {
        if ($this->point === null || $this->points === null || $this->reading === null) {
            return null;
        }
        $plan = $this->barePlan();
        if ($plan->permissionsOnly) {
            $order = PlannedOrder::of($plan, $this->point, $this->points, 'hand')->order;

            return PermissionSheet::script($plan->sentence, ["{$this->points->workload->name}, the point {$this->point->name}."], $order);
        }

        return HandSheetOf::make(
            $plan,
            PlannedOrder::of($plan, $this->point, $this->points, 'hand'),
            $this->reading,
            $this->point,
            $this->points,
        )->script();
    }

    private function barePlan(): RestorePlan
    {
        assert($this->point !== null);
        $host = $this->destination->host;

        return new RestorePlan(
            $this->selection,
            $this->target ?? '',
            $this->conflict(),
            $this->point->captured_at->format('Y-m-d Hi'),
            $this->sentence('UTC'),
            $this->destination->kind === 'own-place',
            $this->said->flat && ! $this->said->permissionsOnly,
            false,
            $this->target !== null && $host?->kind !== 'sftp' && Targets::isNew($this->target),
            $this->request->copyRule(),
            $this->best === null ? '' : ($this->demands->clear ? 'clear' : 'readable'),
            false,
            $host->name ?? '',
            $this->said->conflictRules(),
            $this->said->permissionsOnly ? '' : $this->newName(),
            download: $this->destination->isDownload() ? substr($this->destination->kind, 9) : '',
            permissionsOnly: $this->said->permissionsOnly,
        );
    }

    private function plan(): ?PlanOfReading
    {
        if ($this->points === null || $this->point === null || $this->selection === []) {
            return null;
        }
        if ($this->said->permissionsOnly) {
            return PlanOfReading::ofPermissions($this->points, $this->point, $this->selection);
        }
        try {
            $entries = $this->best?->over((new CatalogReader)->entriesBelow($this->point, $this->selection));

            return PlanOfReading::for($this->points, $this->point, $this->selection, null, $this->request->copyRule(), $entries);
        } catch (CannotPlan $cannot) {
            $this->readingBlocked = $cannot->getMessage();

            return null;
        }
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
        if ($this->said->permissionsOnly && ! $this->destination->isInUse()) {
            $blockers[] = 'Only permissions come back: say under Where what they are given to, its own place or another folder.';
        }
        if ($this->destination->isDownload() && ($this->reading->entries ?? 0) > Download::MOST) {
            $blockers[] = 'A download takes up to '.number_format(Download::MOST).' things. Restore these to a folder.';
        }
        if ($this->destination->blocker !== null) {
            $blockers[] = $this->destination->blocker;
        } elseif ($this->destination->host !== null && $this->preview() === null && $this->previewBlocked !== null) {
            $blockers[] = $this->previewBlocked;
        }
        $preview = $this->destination->blocker === null ? $this->preview() : null;
        if ($preview !== null && ! $preview->fits()) {
            $blockers[] = sprintf(
                'The volume of the target has %s free, and %s are needed%s.',
                Words::size($preview->bytesFree),
                Words::size($preview->bytesNeeded),
                $preview->bytesSetAside > 0 ? ': what is set aside stays there' : '',
            );
        }
        if (in_array($this->request->state, ['running', 'closed'], true)) {
            $blockers[] = $this->request->state === 'running' ? 'A run for this request is at work.' : 'The request is closed.';
        }

        return $blockers;
    }
}
