<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Home;

use App\Kinds\Machines\Run\CarrierAtHypervisor;
use App\Kinds\Machines\Run\PlacementCarrier;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;

/** Runs that take a machine home. Until its going is accepted, what stood in is its set-aside. */
final readonly class HomeCarrier extends CarrierAtHypervisor
{
    public function carryOut(Run $run): void
    {
        (new HomeRun($this->told))->carryOut($run);
    }

    public function canBePutBack(Run $run): bool
    {
        return WayBack::isPossible($run);
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        return PlacementCarrier::told($run, (new WayBack($run))->take($alsoChanged));
    }

    public function clearAside(Run $run, ?User $by): void
    {
        (new WayBack($run))->close();
        $run->update(['set_aside_until' => null, 'outcome' => ['aside_cleared' => true] + ($run->outcome ?? [])]);
        $words = "What stood in for {$run->plan['machine']} at {$run->plan['from']} was removed: there is no way back to it any more.";
        TrailEntry::add($words, $run->request, $by, $run);
    }

    public function touches(Run $run): Touched
    {
        return HomeOrder::fromArray($run->plan)->touches();
    }

    public function came(Run $run): string
    {
        return "{$run->plan['machine']} home to {$run->plan['on']}";
    }
}
