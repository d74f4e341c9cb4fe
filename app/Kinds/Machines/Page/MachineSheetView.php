<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Disks\DiskFacts;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Order\FilesOrder;
use App\Kinds\Machines\Order\ImagePlan;
use App\Kinds\Machines\Order\MachineOrder;
use App\Kinds\Machines\Order\MachineSheet;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\MeasuredRates;
use App\Kinds\Machines\Order\PlacementPlan;
use App\Kinds\Machines\Order\SearchLook;
use App\Kinds\Machines\Run\LatelyBrought;
use App\Kinds\Touched;
use App\Looks\KeptLook;
use App\Models\Host;
use App\Models\RecoveryRequest;
use App\Models\Right;
use App\Models\Run;
use App\Models\User;
use App\Rights\PersonRights;
use App\Sets\SetOutline;
use App\Trees\Run\TouchedFolder;
use App\View\ChainChart;
use App\View\ChartWindow;
use App\View\PointInHand;
use App\View\RequestFrame;
use App\Words;
use Carbon\CarbonImmutable;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Chain\Reading;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Machine\ImageFormat;

/** What the page of a request about a machine shows: the same worksheet, with its disks in it. */
final class MachineSheetView
{
    public readonly MachineSheet $sheet;

    public readonly RequestFrame $frame;

    public readonly ChartWindow $window;

    private ?ChainChart $chart = null;

    private ?InsideView $inside = null;

    /** With all disks of the point, whichever are picked. */
    private ?ImagePlan $all = null;

    public function __construct(public readonly RecoveryRequest $request, public readonly User $user, private readonly Request $http)
    {
        $this->sheet = new MachineSheet($request);
        $this->frame = new RequestFrame($request, $user, $http);
        $this->window = ChartWindow::of($http);
    }

    /** By when somebody decides about a machine that is stood up, as a field of the page has it. */
    public function until(): string
    {
        $until = $this->sheet->said->until;

        return $until === null ? '' : CarbonImmutable::createFromTimestampUTC($until)->setTimezone($this->user->zone)->format('Y-m-d\TH:i');
    }

    public function chart(): ChainChart
    {
        return $this->chart ??= new ChainChart(
            $this->sheet->points,
            $this->sheet->point,
            $this->request->wanted_at,
            $this->window,
            $this->frame->zone,
            Run::provenOf($this->sheet->workload),
        );
    }

    /** @return array<string, DiskFacts> the disks of the point, by name */
    public function disks(): array
    {
        return $this->sheet->point === null ? [] : ImagePlan::disksOf($this->sheet->points, $this->sheet->point);
    }

    public function isPicked(string $disk): bool
    {
        return in_array($disk, $this->sheet->plan->order->disks ?? [], true);
    }

    public function inHand(): PointInHand
    {
        $sheet = $this->sheet;

        return new PointInHand($this->request, $sheet->points, $sheet->found, $sheet->point, $this->frame->zone);
    }

    /** @return array<string, SetOutline> usable points on both sides of the one in hand */
    public function nearest(): array
    {
        $found = $this->sheet->found;

        return array_filter([
            'before' => $found->before === null ? null : $this->sheet->points->set($found->before->id),
            'after' => $found->after === null ? null : $this->sheet->points->set($found->after->id),
        ]);
    }

    /** What lies in the folder that was asked for; of its volumes, without one. */
    public function inside(): InsideView
    {
        return $this->inside ??= new InsideView($this->sheet, $this->http->string('folder')->value());
    }

    /** What is looked for inside the machine, in all its points; '' for nothing. */
    public function searched(): string
    {
        return mb_substr(trim($this->http->string('q')->value()), 0, 200);
    }

    public function search(): ?KeptLook
    {
        $asked = ['q' => $this->searched()];

        return $asked['q'] === '' ? null : KeptLook::of($this->request, new SearchLook($this->request, $asked));
    }

    public function format(): ImageFormat
    {
        return ImageFormat::tryFrom($this->sheet->said->format) ?? ImageFormat::Qcow2;
    }

    /** Bytes of a disk that are no zeros at the point. */
    public function used(string $disk): int
    {
        return $this->allDisks()?->planned->bytes()[$disk] ?? 0;
    }

    /** Blocks of a disk that nobody can give back. */
    public function lost(string $disk): int
    {
        return $this->allDisks()?->planned->lost()[$disk] ?? 0;
    }

    /** How many images a disk is read from. */
    public function chainLength(string $disk): int
    {
        return count($this->allDisks()->disks[$disk]->chain ?? []);
    }

    private function allDisks(): ?ImagePlan
    {
        $point = $this->sheet->point;
        if ($point === null) {
            return null;
        }
        $order = new MachineOrder($this->sheet->workload->name, $this->sheet->disks(), $this->format(), '');

        return $this->all ??= new ImagePlan($this->sheet->points, $point, $order);
    }

    /** Which disk is read there, as it goes on after the set; '' where there is only one. */
    public function diskOf(Reading $reading): string
    {
        [$set, $part] = [...explode('#', $reading->set->id, 2), '0'];
        $parts = $this->sheet->points->set($set)->parts ?? [];

        return count($parts) > 1 ? ', '.($parts[(int) $part] ?? '') : '';
    }

    /** On the volume that it goes to; null where nobody can tell. */
    public function freeBytes(): ?int
    {
        try {
            return $this->sheet->plan?->order->look()->freeBytes();
        } catch (UnableToRestore) {
            return null;
        }
    }

    public function whatInWords(): string
    {
        if ($this->sheet->isAtHypervisor && $this->sheet->way() !== MachineWay::Disks) {
            return match (true) {
                $this->sheet->way() === MachineWay::Configuration => 'the configuration',
                $this->sheet->said->disks === [] => 'the machine',
                default => 'the disks '.implode(', ', $this->sheet->said->disks),
            };
        }
        if ($this->sheet->isFiles()) {
            return $this->sheet->said->paths === [] ? 'files not picked yet' : FilesOrder::words($this->sheet->said->selection());
        }
        $disks = $this->sheet->plan->order->disks ?? [];
        $isAll = count($disks) === count($this->sheet->disks());

        return match (true) {
            $disks === [] => 'disks not settled yet',
            $isAll => ['the disk', 'both disks'][count($disks) - 1] ?? 'all '.count($disks).' disks',
            default => (count($disks) === 1 ? 'the disk ' : 'the disks ').implode(', ', $disks),
        };
    }

    public function whenInWords(): string
    {
        $point = $this->sheet->point;

        return $point === null ? 'a moment with a usable point' : Words::moment($point->capturedAt(), $this->frame->zone, false);
    }

    public function whereInWords(): string
    {
        $host = $this->sheet->said->host();
        $into = $this->sheet->into();
        if ($into !== null) {
            $own = count($into->paths) > 1 ? 'their own places' : 'its own place';
            $folder = $into->folder === '' ? $own : '/'.Shown::name($into->folder);

            return "$folder in {$into->machine} at {$into->on}".($into->isRunning ? ', which runs' : '');
        }
        if ($this->sheet->isAtHypervisor) {
            $order = $this->sheet->placement()?->order;

            return $order === null
                ? "at {$this->sheet->said->on}"
                : "{$order->machine} at {$order->on}".($order->annex ? ", {$order->inAnnex()}" : '');
        }

        return match (true) {
            $host !== null => "the folder /{$this->sheet->said->folder} of {$host->name}",
            default => 'a new folder on this machine',
        };
    }

    /** The folder itself; null while it is not settled. */
    public function folder(): ?string
    {
        $order = $this->sheet->plan?->order;

        return $order === null ? null : ($order->host === '' ? '' : "{$order->host}:").$order->folder;
    }

    /** By what is checked what goes into a folder, or into a machine. */
    public function checkedBy(): string
    {
        return match (true) {
            $this->sheet->into() !== null => 'digest, owner, mode and time',
            $this->sheet->isFiles() => 'digest, size, mode and time',
            default => 'every block',
        };
    }

    public function checksInWords(): string
    {
        return ($this->sheet->way()->needsDisks() ? 'every block' : 'asking for it again').
            ($this->sheet->said->starts ? ', and by what it answers' : '');
    }

    /** Where it goes, as the form has it. */
    public function to(): string
    {
        return match (true) {
            $this->sheet->said->into !== '' => 'machine',
            $this->sheet->said->on !== '' => 'hypervisor',
            $this->sheet->said->host !== null => 'host',
            default => 'new-folder',
        };
    }

    /** @return list<SearchRow> files that were found by a search in all points */
    public function foundFiles(): array
    {
        $rows = $this->search()?->found()['rows'] ?? [];

        return array_map(fn (array $row): SearchRow => new SearchRow($row), array_values((array) $rows));
    }

    /** @return list<WayLine> the ways side by side, for this machine now */
    public function ways(): array
    {
        $rates = MeasuredRates::now();

        return array_values(array_map(
            fn (PlacementPlan $plan): WayLine => WayLine::of($plan, $plan->order->way === $this->sheet->way(), $rates),
            $this->sheet->ways(),
        ));
    }

    /**
     * @param  list<WayLine>  $lines
     * @return float seconds of the longest of them
     */
    public function longestOf(array $lines): float
    {
        return max([0.0, ...array_map(fn (WayLine $line): float => $line->seconds(), $lines)]);
    }

    /** @return Collection<int, HypervisorHost> those that this person may write to */
    public function hypervisors(): Collection
    {
        $reach = PersonRights::of($this->user);

        return HypervisorHost::query()
            ->orderBy('name')
            ->get()
            ->filter(fn (HypervisorHost $host): bool => $reach->refuses(Right::Write, $host) === null);
    }

    /** @return Collection<int, Annex> at the hypervisor, which the machine can join: those of machines that this person sees */
    public function annexes(): Collection
    {
        $host = $this->sheet->hypervisor();
        $sees = fn (Annex $annex): bool => $this->user->sees($annex->run->workload->group);

        return $host === null ? new Collection : Annex::openAt($host)->filter($sees)->values();
    }

    /**
     * Those that came back lately first, the last of them at the top.
     *
     * @return array<string, string> machines that files can be brought into, as the form has them => in words
     */
    public function machines(): array
    {
        $machines = $order = [];
        $lately = LatelyBrought::now();
        foreach ($this->hypervisors() as $host) {
            foreach ($host->lastSeen()->machines ?? [] as $name => $machine) {
                if (! HypervisorHost::isOfRun($name)) {
                    $back = $lately->at($host->name, $name);
                    $came = $back === null ? '' : ', came back '.Words::moment($back, $this->frame->zone);
                    $machines["{$host->id}:$name"] = "$name at {$host->name}, ".($machine->isRunning() ? 'runs' : 'off').$came;
                    $order[] = -($back->timestamp ?? 0);
                }
            }
        }
        array_multisort($order, $machines);

        return $machines;
    }

    /** @return Collection<int, Enrolment> codes of this request for machines that a medium is started on, and those machines */
    public function enrolments(): Collection
    {
        return Enrolment::ofRequest($this->request);
    }

    /** The one that was chosen, as the form has it. */
    public function intoMachine(): string
    {
        return "{$this->sheet->hypervisor()?->id}:{$this->sheet->said->into}";
    }

    /** The folder in it, as the form has it. */
    public function insideShown(): string
    {
        $inside = rawurldecode($this->sheet->said->inside);

        return $inside === '' ? '' : '/'.Shown::name($inside);
    }

    /** @return Collection<int, Host> */
    public function hosts(): Collection
    {
        return Host::query()
            ->orderBy('name')
            ->get()
            ->filter(
                fn (Host $host): bool => (new Touched([TouchedFolder::of($host, $host->folder, false)]))->refusedTo($this->user) === null,
            );
    }
}
