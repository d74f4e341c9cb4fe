<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Page\MachineView;
use App\Kinds\Machines\Snapshots\KeepSnapshot;
use App\Kinds\Machines\Snapshots\SourceSnapshots;
use App\Models\TrailEntry;
use App\Models\User;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Gate;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** Keeps a machine as it is now at its own storage, or has a set made of what is kept there. */
final class SnapshotController
{
    public function __invoke(Request $request, HypervisorHost $hypervisor, string $machine): RedirectResponse
    {
        Gate::authorize('turn', [$hypervisor, $machine]);
        $user = $request->user();
        assert($user instanceof User);
        $workload = $hypervisor->workloads($machine)[0] ?? null;
        $seen = $hypervisor->lastSeen()->machines[$machine] ?? null;
        abort_unless($workload !== null && $seen !== null && $user->sees($workload->group), 404);
        $page = MachineView::address($hypervisor, $machine).'#snapshots';
        $keep = $request->string('keep')->value();
        if ($keep !== '') {
            isset($seen->snapshots[$keep]) || abort(404);
            KeepSnapshot::dispatch($workload->id, $keep, $user->id);
            TrailEntry::add("A set is to be made of the snapshot $keep of {$workload->name}.", null, $user, workload: $workload);

            return redirect($page)->with('told', 'A set is being made of it.');
        }
        try {
            $name = (new SourceSnapshots($workload))->take();
        } catch (HypervisorFailure|CannotBring $cannot) {
            return redirect($page)->withErrors(['snapshot' => ucfirst($cannot->getMessage()).'.']);
        }
        TrailEntry::add("The snapshot $name of {$workload->name} was taken.", null, $user, workload: $workload);

        return redirect($page)->with('told', 'It is kept as it is now.');
    }
}
