<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Blank\BlankOrder;
use App\Kinds\Machines\Blank\BlankPlan;
use App\Kinds\Machines\Blank\BlankWish;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\SeenHost;
use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Metal\KeptLayout;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\RecoveryRequest;
use App\Models\Right;
use App\Models\Run;
use App\Models\User;
use App\Rights\PersonRights;
use App\Sets\Points;
use App\Sets\SetOutline;
use Illuminate\Database\Eloquent\Collection;
use Kaiseki\Core\Hypervisor\UnfitSettings;

/** The page on which a machine is ordered onto a blank one at a hypervisor. */
final class BlankView
{
    /** @var Collection<int, HypervisorHost> that this person may write to */
    public readonly Collection $hosts;

    public readonly ?HypervisorHost $host;

    public readonly ?SeenHost $seen;

    public readonly Points $points;

    public readonly ?SetOutline $point;

    /** Null while nothing can be planned; then $because says why. */
    public readonly ?BlankPlan $plan;

    public readonly string $because;

    /** @param  int  $on  the hypervisor that was chosen; 0 for the first that answers */
    public function __construct(
        public readonly RecoveryRequest $request,
        public readonly User $user,
        public readonly BlankWish $wish,
        int $on,
    ) {
        $reach = PersonRights::of($user);
        $this->hosts = HypervisorHost::query()->orderBy('name')->get()
            ->filter(fn (HypervisorHost $host): bool => $reach->refuses(Right::Write, $host) === null);
        $this->host = $this->hosts->firstWhere('id', $on) ?? $this->hosts->firstWhere('silent', null);
        $this->seen = $this->host?->lastSeen();
        $this->points = new Points($request->workload, null, $wish->copies);
        $this->point = MetalView::pointFor($request, $this->points);
        [$this->plan, $this->because] = $this->planned();
    }

    /** @return array{BlankPlan|null, string} */
    private function planned(): array
    {
        if ($this->host === null || $this->seen === null || ! $this->isRead()) {
            return [null, ''];
        }
        try {
            return [BlankPlan::settle($this->points, $this->point, $this->wish, $this->host, $this->seen), ''];
        } catch (CannotBring $cannot) {
            return [null, $cannot->getMessage()];
        } catch (UnfitSettings $unfit) {
            return [null, ucfirst($unfit->getMessage()).'.'];
        }
    }

    /** Whether it is known how the disks of the point were laid out. */
    public function isRead(): bool
    {
        return $this->point !== null && KeptLayout::of($this->points->model($this->point)) !== null;
    }

    /** @return list<string> what stands in the way; none if it can be ordered */
    public function blockers(): array
    {
        if ($this->plan === null || $this->host === null) {
            return [];
        }
        $touched = TouchedMachine::at($this->host, $this->plan->order->settings->name, false);

        return [...array_filter([$touched->refusedTo($this->user)]), ...$this->plan->blockers()];
    }

    /** The last drill of the machine that came to its end. */
    public function lastDrill(): ?Run
    {
        return Run::query()
            ->where(['workload_id' => $this->request->workload_id, 'state' => 'done'])
            ->where('plan->way', BlankOrder::WAY)
            ->where('plan->drill', true)
            ->latest('id')
            ->first();
    }

    public function drawing(): ?LayoutDrawing
    {
        return $this->plan === null || $this->plan->layout->disks === [] ? null : LayoutDrawing::of($this->plan->layout);
    }
}
