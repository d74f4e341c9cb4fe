<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Instance;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\InHand\FilesInHand;
use App\Kinds\Machines\InHand\ImagesInHand;
use App\Kinds\Machines\InHand\InHand;
use App\Kinds\Machines\InHand\IntoInHand;
use App\Kinds\Machines\InHand\PlacementInHand;
use App\Kinds\OrderSheet;
use App\Kinds\Touched;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;
use App\Rights\PersonRights;
use App\Sets\CannotPlan;
use App\Sets\CopyChoices;
use App\Sets\Points;
use App\Sets\ReadingOfSets;
use App\Sets\SetOutline;
use App\Trees\Run\RestorePlan;
use App\Trees\Run\Targets;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Machine\ImageFormat;

/** What is settled for a request about a machine, what it means, and what still stands in the way of running it. */
final class MachineSheet implements OrderSheet
{
    public readonly Workload $workload;

    public readonly MachineSaid $said;

    public readonly Points $points;

    public readonly Demands $demands;

    public readonly FoundPoint $found;

    /** The point in hand: the operator's own choice, or the proposed one. */
    public readonly ?SetOutline $point;

    /** Null while there is no point, or its place is not settled. */
    public readonly ?ImagePlan $plan;

    public readonly ?ReadingOfSets $reading;

    /** Files that come out of it, instead of images; null where none are picked. */
    public readonly ?RestorePlan $files;

    /** Whether it goes to a hypervisor, and not to a folder. */
    public readonly bool $isAtHypervisor;

    /** Null while its place is not settled. */
    private readonly ?InHand $inHand;

    private ?string $problem = null;

    public function __construct(public readonly RecoveryRequest $request)
    {
        assert($request->workload !== null);
        $this->workload = $request->workload;
        $this->said = MachineSaid::of($request);
        $this->demands = Demands::parse($request->demands);
        $this->points = new Points($request->workload, null, $request->copyRule());
        $this->found = $this->points->find(Instant::of($request->wanted_at), $this->demands);
        $this->point =
            $this->points->sets[$request->set_id ?? 0] ?? ($this->found->set === null ? null : $this->points->set($this->found->set->id));
        $this->plan = $this->point === null ? null : $this->planFor($this->point);
        $picksFiles = $this->plan !== null && $this->said->paths !== [];
        $this->files = $picksFiles && $this->said->into === '' ? $this->filesFor($this->plan) : null;
        $this->isAtHypervisor = $this->said->on !== '' && $this->files === null && $this->said->into === '';
        $this->inHand = $this->plan === null ? null : $this->handFor($this->plan);
        $readsDisks = ! $this->isAtHypervisor || $this->way()->needsDisks();
        $this->reading = $this->plan === null || ! $readsDisks ? null : $this->readingBy($this->request->copyRule());
    }

    public function way(): MachineWay
    {
        return MachineWay::tryFrom($this->said->way) ?? MachineWay::Whole;
    }

    public function hypervisor(): ?HypervisorHost
    {
        return $this->said->on === '' ? null : HypervisorHost::query()->where('name', $this->said->on)->first();
    }

    private function handFor(ImagePlan $plan): InHand
    {
        $rule = $this->request->copyRule();
        $all = count($this->disks());

        return match (true) {
            $this->said->into !== '' => new IntoInHand($this->points, $plan->point, $this->said, $rule),
            $this->files !== null => new FilesInHand($this->points, $plan->point, $this->files, $this->said->host()),
            $this->isAtHypervisor => new PlacementInHand($this->points, $plan->point, $this->said, $rule, $all),
            default => new ImagesInHand($plan, $this->said->host(), $all),
        };
    }

    /** The machine as it is to be brought back, at its hypervisor as it was when somebody looked last; null where it is not settled. */
    public function placement(): ?PlacementPlan
    {
        return $this->inHand instanceof PlacementInHand ? $this->inHand->plan() : null;
    }

    /** @return array<string, PlacementPlan> the same order in each way that there is, by its way */
    public function ways(): array
    {
        return $this->inHand instanceof PlacementInHand ? $this->inHand->ways() : [];
    }

    /** Files that are brought into a machine; null where they, or it, are none. */
    public function into(): ?IntoOrder
    {
        return $this->inHand instanceof IntoInHand ? $this->inHand->order() : null;
    }

    /** Whether it is files that come back, and not disks. */
    public function isFiles(): bool
    {
        return $this->files !== null || $this->said->into !== '';
    }

    /** What is done where something stands already, of files. */
    public function conflict(): ?ConflictRule
    {
        return $this->files->conflict ?? $this->into()?->conflict;
    }

    private function planFor(SetOutline $point): ?ImagePlan
    {
        $host = $this->said->host();
        try {
            $folder = $host === null ? $this->newFolder() : Targets::onHost($host, "/{$this->said->folder}");
            $host === null && Targets::refuseUnfit($folder);
        } catch (UnableToRestore $unfit) {
            $this->problem = $unfit->getMessage();

            return null;
        }
        $order = new MachineOrder(
            $this->workload->name,
            array_values(array_intersect($this->said->disks, $this->disks())) ?: $this->disks(),
            ImageFormat::tryFrom($this->said->format) ?? ImageFormat::Qcow2,
            $folder,
            $host->name ?? '',
            $this->said->part,
            $this->request->copyRule(),
        );

        return ImagePlan::of($this->points, $point, $order);
    }

    private function filesFor(ImagePlan $plan): RestorePlan
    {
        return FilesOrder::plan(
            $plan->point,
            $this->workload->name,
            $this->said->selection(),
            $this->said->host(),
            $plan->order->folder,
            ConflictRule::tryFrom($this->said->conflict) ?? ConflictRule::Beside,
            $this->request->copyRule(),
        );
    }

    private function newFolder(): string
    {
        $runs = $this->request->runs->count();

        return Instance::folder('restored')."/request-{$this->request->id}".($runs > 0 ? '-'.($runs + 1) : '');
    }

    private function readingBy(CopyRule $rule): ?ReadingOfSets
    {
        try {
            return $this->plan?->planned->reading($rule);
        } catch (CannotPlan) {
            return null;
        }
    }

    /** @return list<string> the disks that the point has */
    public function disks(): array
    {
        return $this->point === null ? [] : array_map(strval(...), array_keys(ImagePlan::disksOf($this->points, $this->point)));
    }

    public function request(): RecoveryRequest
    {
        return $this->request;
    }

    public function lookAgain(): void
    {
        $this->inHand?->lookAgain();
    }

    public function blockers(): array
    {
        $blockers = match (true) {
            $this->point === null => ['There is no usable point at or before the wanted moment.'],
            default => $this->inHand?->blockers() ?? [(string) $this->problem],
        };
        if (in_array($this->request->state, ['running', 'closed'], true)) {
            $blockers[] = $this->request->state === 'running' ? 'A run for this request is at work.' : 'The request is closed.';
        }

        return $blockers;
    }

    public function sentence(string $zone): string
    {
        return $this->inHand?->sentence($zone) ?? 'The order is not settled yet.';
    }

    public function fingerprint(): string
    {
        return hash('sha256', json_encode([$this->inHand?->identity(), $this->point?->id], JSON_THROW_ON_ERROR));
    }

    public function touches(): Touched
    {
        return $this->inHand?->touches() ?? Touched::nothing();
    }

    public function mayReplace(): bool
    {
        return $this->inHand?->mayReplace() ?? false;
    }

    public function needsApproval(): bool
    {
        return $this->mayReplace() && $this->marked() !== [];
    }

    public function marked(): array
    {
        return $this->touches()->marked();
    }

    public function refusedTo(User $user): ?string
    {
        $reach = PersonRights::of($user);
        $read = array_values(array_unique($this->reading?->stores() ?? []));

        return $reach->refusesStores($this->request->copyRule()) ?? ($reach->refusesReading($read) ?? $this->touches()->refusedTo($user));
    }

    public function previewCounts(): array
    {
        return $this->inHand?->previewCounts() ?? [];
    }

    public function sets(): array
    {
        return $this->point === null ? [] : [$this->point->id];
    }

    public function copies(): CopyChoices
    {
        return new CopyChoices(
            $this->points,
            $this->request,
            $this->reading,
            $this->plan === null ? null : $this->readingBy(new CopyRule),
        );
    }

    public function handSheet(): ?iterable
    {
        return $this->point === null ? null : [ImageHandSheet::script($this->points, $this->point, '', $this->plan?->order->disks)];
    }

    public function runAttributes(bool $setFirst): array
    {
        assert($this->inHand !== null && $this->point !== null);

        return ['set_id' => $this->point->id] + $this->inHand->runAttributes();
    }

    /** Bytes of the disks that are written, zeros and all. */
    public function sizes(): int
    {
        return $this->plan?->planned->sizes() ?? 0;
    }

    /** Bytes that are not zeros. */
    public function bytes(): int
    {
        return array_sum($this->plan?->planned->bytes() ?? []);
    }
}
