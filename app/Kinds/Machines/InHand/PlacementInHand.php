<?php

declare(strict_types=1);

namespace App\Kinds\Machines\InHand;

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\MachineSaid;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\PlacementPlan;
use App\Kinds\Touched;
use App\Sets\Points;
use App\Sets\SetOutline;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** A machine that is brought back at a hypervisor, as that was seen last. */
final class PlacementInHand implements InHand
{
    private ?PlacementPlan $plan = null;

    private ?string $problem = null;

    /** @var list<string>|null */
    private ?array $unfit = null;

    /** @param  int  $all  how many disks the point has */
    public function __construct(
        private readonly Points $points,
        private readonly SetOutline $point,
        private readonly MachineSaid $said,
        private readonly CopyRule $copies,
        private readonly int $all,
    ) {
    }

    public function way(): MachineWay
    {
        return MachineWay::tryFrom($this->said->way) ?? MachineWay::Whole;
    }

    public function host(): ?HypervisorHost
    {
        return HypervisorHost::query()->where('name', $this->said->on)->first();
    }

    /** Null where it is not settled. */
    public function plan(): ?PlacementPlan
    {
        if ($this->plan === null && $this->problem === null) {
            $this->plan = $this->planFor($this->way());
        }

        return $this->plan;
    }

    private function planFor(MachineWay $way): ?PlacementPlan
    {
        $host = $this->host();
        $seen = $host?->lastSeen();
        $wish = $this->said->with(way: $way->value)->wish($this->copies);
        if ($host === null || $seen === null || $wish === null) {
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
        foreach (MachineWay::cases() as $way) {
            $ways[$way->value] = $way === $this->way() ? $this->plan() : $this->planFor($way);
        }

        return array_filter($ways);
    }

    public function blockers(): array
    {
        return $this->host()?->silent !== null
            ? ["{$this->said->on} does not answer. Choose another hypervisor under Where, or wait until it does."]
            : ($this->unfit ??= $this->plan()?->blockers() ?? [(string) $this->problem]);
    }

    public function lookAgain(): void
    {
        [$this->unfit, $this->plan, $this->problem] = [null, null, null];
        try {
            $this->host()?->look();
        } catch (HypervisorFailure $silent) {
            $this->problem = ucfirst($silent->getMessage()).'.';
        }
    }

    public function sentence(string $zone): string
    {
        return $this->plan()?->sentence($zone) ?? 'The order is not settled yet.';
    }

    public function identity(): mixed
    {
        return [$this->plan()?->order->toArray(), $this->plan()?->standsThere()];
    }

    public function touches(): Touched
    {
        return $this->plan() === null ? Touched::nothing() : TouchedMachine::by($this->plan()->order);
    }

    public function mayReplace(): bool
    {
        return $this->plan()?->order->replaces() ?? false;
    }

    public function previewCounts(): array
    {
        return ['machine' => $this->plan()?->sentence('UTC') ?? ''];
    }

    public function runAttributes(): array
    {
        $plan = $this->plan() ?? throw CannotBring::because((string) $this->problem);
        $disks = count($plan->order->disks);

        return [
            'plan' => $plan->order->toArray(),
            'is_whole' => $plan->order->way === MachineWay::Whole && $disks === $this->all,
            'files_total' => $disks,
            'bytes_total' => 2 * $plan->planned->sizes(),
        ];
    }
}
