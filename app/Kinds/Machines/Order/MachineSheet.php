<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Instance;
use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Run\MachineCarrier;
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
use App\Trees\Run\TouchedFolder;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Machine\ImageFormat;
use Kaiseki\Core\UnableToRead;

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

    private ?PlacementPlan $placement = null;

    private ?string $problem = null;

    /** @var list<string>|null */
    private ?array $unfit = null;

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
        $this->files = $this->plan === null || $this->said->paths === [] ? null : $this->filesFor($this->plan);
        $this->isAtHypervisor = $this->said->on !== '' && $this->files === null;
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

    /** The machine as it is to be brought back, at its hypervisor as it was when somebody looked last; null where it is not settled. */
    public function placement(): ?PlacementPlan
    {
        if ($this->isAtHypervisor && $this->point !== null && $this->placement === null && $this->problem === null) {
            $this->placement = $this->placementFor($this->way());
        }

        return $this->placement;
    }

    private function placementFor(MachineWay $way): ?PlacementPlan
    {
        $host = $this->hypervisor();
        $seen = $host?->lastSeen();
        $wish = $this->said->with(way: $way->value)->wish($this->request->copyRule());
        if ($host === null || $seen === null || $wish === null || $this->point === null) {
            $this->problem = $host === null ? "There is no hypervisor {$this->said->on} any more." : "{$host->name} was not looked at yet.";

            return null;
        }
        try {
            return PlacementPlan::settle($this->points, $this->point, $wish, $host, $seen);
        } catch (CannotBring $cannot) {
            $this->problem = $cannot->getMessage();

            return null;
        }
    }

    /** @return array<string, PlacementPlan> the same order in each way that there is, by its way */
    public function ways(): array
    {
        $ways = [];
        foreach ($this->isAtHypervisor ? MachineWay::cases() : [] as $way) {
            $ways[$way->value] = $way === $this->way() ? $this->placement() : $this->placementFor($way);
        }

        return array_filter($ways);
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

    /** @return list<string> of what is picked, what stands in the way */
    private function unfitFiles(ImagePlan $plan, RestorePlan $files): array
    {
        $blockers = [];
        $tree = new MachineTree($this->points, $plan->point, $files->copies);
        foreach ($files->paths as $path) {
            try {
                $tree->find($path);
            } catch (CannotBring|UnableToRead $cannot) {
                $blockers[] = $cannot->getMessage();
            }
        }
        try {
            $files->look()->freeBytes();
        } catch (UnableToRestore $unable) {
            $blockers[] = $unable->getMessage();
        }

        return $blockers;
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
        $this->unfit = null;
        if ($this->isAtHypervisor) {
            [$this->placement, $this->problem] = [null, null];
            try {
                $this->hypervisor()?->look();
            } catch (HypervisorFailure $silent) {
                $this->problem = ucfirst($silent->getMessage()).'.';
            }
        }
    }

    public function blockers(): array
    {
        $blockers = match (true) {
            $this->point === null => ['There is no usable point at or before the wanted moment.'],
            $this->plan === null => [(string) $this->problem],
            $this->files !== null => ($this->unfit ??= $this->unfitFiles($this->plan, $this->files)),
            $this->isAtHypervisor && $this->hypervisor()?->silent !== null => [self::silent($this->hypervisor())],
            $this->isAtHypervisor => ($this->unfit ??= $this->placement()?->blockers() ?? [(string) $this->problem]),
            default => ($this->unfit ??= $this->plan->blockers()),
        };
        if (in_array($this->request->state, ['running', 'closed'], true)) {
            $blockers[] = $this->request->state === 'running' ? 'A run for this request is at work.' : 'The request is closed.';
        }

        return $blockers;
    }

    private static function silent(HypervisorHost $host): string
    {
        return "{$host->name} does not answer. Choose another hypervisor under Where, or wait until it does.";
    }

    public function sentence(string $zone): string
    {
        return match (true) {
            $this->plan === null => 'The order is not settled yet.',
            $this->files !== null => FilesOrder::sentence(
                $this->files->paths,
                $this->workload->name,
                $this->plan->point,
                $this->files->target,
                $zone,
            ),
            $this->isAtHypervisor => $this->placement()?->sentence($zone) ?? 'The order is not settled yet.',
            default => $this->plan->sentence($zone),
        };
    }

    public function fingerprint(): string
    {
        $order = match (true) {
            $this->files !== null => array_diff_key($this->files->toArray(), ['date' => 0]),
            $this->isAtHypervisor => [$this->placement()?->order->toArray(), $this->placement()?->standsThere()],
            default => $this->plan?->order->toArray(),
        };

        return hash('sha256', json_encode([$order, $this->point?->id], JSON_THROW_ON_ERROR));
    }

    public function touches(): Touched
    {
        if ($this->isAtHypervisor) {
            return $this->placement() === null ? Touched::nothing() : TouchedMachine::by($this->placement()->order);
        }

        return $this->plan === null
            ? Touched::nothing()
            : new Touched([TouchedFolder::of($this->said->host(), $this->plan->order->folder, $this->mayReplace())]);
    }

    /** Images are only ever written beside what is there; files by their rule; a machine where one of its name stands. */
    public function mayReplace(): bool
    {
        return $this->isAtHypervisor
            ? $this->placement()?->order->replaces() ?? false
            : $this->files !== null && $this->files->conflict->replaces();
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
        if ($this->isAtHypervisor) {
            return ['machine' => $this->placement()?->sentence('UTC') ?? ''];
        }

        return $this->files === null
            ? ['images' => 'new images, and nothing is written over']
            : ['files' => count($this->files->paths).' picked, '.$this->files->conflict->words()];
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
        assert($this->plan !== null && $this->point !== null);
        if ($this->files !== null) {
            return [
                'set_id' => $this->point->id,
                'plan' => ['way' => MachineCarrier::FILES] + $this->files->toArray(),
                'is_whole' => false,
            ];
        }

        if ($this->isAtHypervisor && $this->placement() !== null) {
            $order = $this->placement()->order;

            return [
                'set_id' => $this->point->id,
                'plan' => $order->toArray(),
                'is_whole' => $order->way === MachineWay::Whole && count($order->disks) === count($this->disks()),
                'files_total' => count($order->disks),
                'bytes_total' => 2 * $this->placement()->planned->sizes(),
            ];
        }

        return [
            'set_id' => $this->point->id,
            'plan' => $this->plan->order->toArray(),
            'is_whole' => count($this->plan->order->disks) === count($this->disks()),
            'files_total' => count($this->plan->order->disks),
            'bytes_total' => 2 * $this->sizes(),
        ];
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
