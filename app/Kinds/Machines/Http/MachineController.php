<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\MachineLook;
use App\Kinds\Machines\Hypervisors\Turn;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Page\MachineView;
use App\Models\TrailEntry;
use App\Models\User;
use App\Sets\ContentRead;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Gate;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Symfony\Component\HttpFoundation\Response;

/** One machine at a hypervisor: what it is, what is on its screen, and turning it on or off. */
final class MachineController
{
    public function show(Request $request, HypervisorHost $hypervisor, string $machine): View
    {
        $seen = self::seen($hypervisor, $machine);

        return view('kinds.machine.machine', ['view' => new MachineView($hypervisor, $seen, self::user($request))]);
    }

    public function screen(HypervisorHost $hypervisor, string $machine): Response
    {
        Gate::authorize('look', [$hypervisor, $machine]);
        $png = MachineLook::at($hypervisor, $machine)?->screen;
        abort_if($png === null, 404);

        return response($png, 200, ['Content-Type' => 'image/png', 'Content-Disposition' => 'inline; filename="screen.png"']);
    }

    public function look(Request $request, HypervisorHost $hypervisor, string $machine): RedirectResponse
    {
        Gate::authorize('look', [$hypervisor, $machine]);
        self::seen($hypervisor, $machine);
        $workload = $hypervisor->workloads($machine)[0] ?? null;
        ContentRead::told("Looked at the screen of $machine at {$hypervisor->name}.", $workload, self::user($request));
        MachineLook::wanted($hypervisor, $machine);

        return redirect(MachineView::address($hypervisor, $machine));
    }

    public function turn(Request $request, HypervisorHost $hypervisor, string $machine): RedirectResponse
    {
        Gate::authorize('turn', [$hypervisor, $machine]);
        self::seen($hypervisor, $machine);
        $turn = Turn::tryFrom($request->string('turn')->value());
        if ($turn === null) {
            return redirect(MachineView::address($hypervisor, $machine))->withErrors(['turn' => 'Say whether it is started or stopped.']);
        }
        $workload = $hypervisor->workloads($machine)[0] ?? null;
        try {
            $turn === Turn::Start && Substitute::refuseBeside($hypervisor, $machine);
        } catch (CannotBring $beside) {
            return redirect(MachineView::address($hypervisor, $machine))->withErrors(['turn' => $beside->getMessage()]);
        }
        TrailEntry::add($turn->ordered($machine, $hypervisor->name), null, self::user($request), workload: $workload);
        MachineLook::wanted($hypervisor, $machine, $turn);

        return redirect(MachineView::address($hypervisor, $machine));
    }

    /** At the serial line of one that stands for now; in an annex what is done in it is listed there. */
    public function type(Request $request, HypervisorHost $hypervisor, string $machine): RedirectResponse
    {
        Gate::authorize('turn', [$hypervisor, $machine]);
        $view = new MachineView($hypervisor, self::seen($hypervisor, $machine), self::user($request));
        abort_unless($view->mayType(), 404);
        $line = $request->string('line')->value();
        if (preg_match('/^[^\p{C}]{1,200}$/Du', $line) !== 1) {
            return redirect($view->url())->withErrors(['line' => 'A line has 1 to 200 letters that can be seen.'])->withInput();
        }
        $standing = $view->standing() ?? abort(404);
        try {
            $hypervisor->open()->type($machine, "$line\n");
        } catch (HypervisorFailure $failure) {
            return redirect($view->url())->withErrors(['line' => ucfirst($failure->getMessage()).'.'])->withInput();
        }
        $told = "Typed at the serial line of $machine at {$hypervisor->name}: $line";
        TrailEntry::add($told, $standing->run->request, self::user($request), $standing->run, workload: $standing->run->workload);
        MachineLook::wanted($hypervisor, $machine);

        return redirect($view->url());
    }

    private static function seen(HypervisorHost $host, string $machine): MachineSeen
    {
        return $host->lastSeen()->machines[$machine] ?? abort(404);
    }

    private static function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
