<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Home;

use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Names\LeadNames;
use App\Kinds\Machines\Names\LedName;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** Has a machine that a run brought back elsewhere be the original from now on. */
final readonly class StandIn
{
    private ?PlacementOrder $order;

    public function __construct(private Run $run)
    {
        $way = MachineWay::tryFrom((string) ($run->plan['way'] ?? ''));
        $this->order = $way?->isNew() === true ? PlacementOrder::fromArray($run->plan) : null;
    }

    /** Whether what it brought back is elsewhere than its original, and could be it. */
    public function isPossible(): bool
    {
        $of = HypervisorHost::of($this->run->workload);
        $isPlaced = $this->run->state === 'done' && $this->run->put_back_at === null && ($this->run->outcome['placed'] ?? false) === true;

        return $this->order !== null && $isPlaced && $of !== null && $of[0]->name !== $this->order->on
            && Annex::around($this->run) === null && ! Substitute::query()->where('run_id', $this->run->id)->exists();
    }

    /**
     * @param  bool  $homeIsDown  whether somebody has seen that the original is down, whose hypervisor does not answer
     * @param  string  $address  under which it is reached there: its names lead to that from now on; '' to leave them as they are
     *
     * @throws CannotBring if the original may run, or it is none, or its names cannot be led there; nothing is changed then
     */
    public function begin(bool $homeIsDown, ?User $by, string $address = ''): Substitute
    {
        $this->isPossible() || throw CannotBring::because(
            "Run {$this->run->id} brought no machine back that could stand in: one that is another's original, at another hypervisor.",
        );
        [$home, $machine] = HypervisorHost::of($this->run->workload) ?? throw CannotBring::because('It is not known what it was.');
        $order = $this->order ?? throw CannotBring::because('It is no such run.');
        $seen = $this->whatIsThere($home, $machine, $homeIsDown);
        $before = Substitute::query()->where('workload_id', $this->run->workload_id)->whereNull('ended')->first();
        $led = $address === '' ? [] : LeadNames::to($this->run->workload, $address);
        $substitute = Substitute::query()->create([
            'workload_id' => $this->run->workload_id, 'run_id' => $this->run->id,
            'hypervisor_id' => $order->host()->id, 'machine' => $order->machine,
            // One that stood in for it before was not its home.
            'home_id' => $before->home_id ?? $home->id, 'home_machine' => $before->home_machine ?? $machine,
            'names' => array_map(fn (LedName $one): array => ($before?->ledSince($one) ?? $one)->toArray(), $led),
        ]);
        $before?->end(Substitute::DROPPED);
        $order->host()->holds($this->run->workload, $order->machine);
        TrailEntry::add(
            "{$order->machine} at {$order->on} stands in for $machine at {$home->name} from now on ($seen): sets are made of it.",
            $this->run->request, $by, $this->run, workload: $this->run->workload,
        );
        foreach ($led as $one) {
            TrailEntry::add("{$one->words()}.", $this->run->request, $by, $this->run, workload: $this->run->workload);
        }

        return $substitute;
    }

    /** @throws CannotBring */
    private function whatIsThere(HypervisorHost $home, string $machine, bool $homeIsDown): string
    {
        try {
            $there = $home->look()->machines[$machine] ?? null;
        } catch (HypervisorFailure) {
            $homeIsDown || throw CannotBring::because(
                "{$home->name} does not answer, so that $machine may run there still: say that you have seen that it is down.",
            );

            return "{$home->name} does not answer; that it is down was said";
        }
        $there?->isRunning() !== true || throw CannotBring::because("$machine at {$home->name} runs: two would be the same machine. ".
            'Shut it down first.');

        return $there === null ? 'that one is not there any more' : 'that one is off';
    }
}
