<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Metal\KeptLayout;
use App\Kinds\Machines\Metal\MetalSources;
use App\Kinds\Machines\Metal\OrderedRun;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Page\BlankView;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** A machine onto a blank one at a hypervisor: as a drill, or to stay there. */
final class BlankController
{
    /** What was chosen, that is kept in the address. */
    private const CHOSEN = [
        'on', 'then', 'machine', 'storage', 'network', 'memory', 'cores', 'firmware', 'bus', 'asked', 'answers', 'renew_id', 'follow',
    ];

    public function show(BlankRequest $request, RecoveryRequest $recoveryRequest): View
    {
        $view = self::view($request, $recoveryRequest);

        return view('kinds.machine.blank', ['view' => $view, 'zone' => $view->user->zone]);
    }

    public function decide(BlankRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $view = self::view($request, $recoveryRequest);
        $back = "/requests/{$recoveryRequest->id}/blank?".http_build_query($request->only(self::CHOSEN));
        if ($view->point === null || $view->host === null) {
            return redirect($back);
        }
        try {
            KeptLayout::read($view->points, $view->point, $view->wish->copies);
            $view->host->look();
        } catch (CannotBring|HypervisorFailure $cannot) {
            return redirect($back)->withErrors(['order' => ucfirst(rtrim($cannot->getMessage(), '.')).'.']);
        }
        if ($request->string('do')->value() !== 'order') {
            return redirect($back);
        }
        $view = self::view($request, $recoveryRequest); // as it is now
        $blockers = $view->plan === null ? [$view->because] : $view->blockers();
        if ($view->plan === null || $blockers !== []) {
            return redirect($back)->withErrors(['order' => implode(' ', $blockers)]);
        }
        if (! hash_equals($view->plan->fingerprint(), $request->string('shown')->value())) {
            return redirect($back)->withErrors(['order' => 'This is not what was shown before: look at it, and order it again.']);
        }
        $order = $view->plan->ordered();
        $run = OrderedRun::begin(
            $view->points->workload,
            $view->plan->point,
            $order->toArray(),
            $view->plan->layout->leftAlone === [],
            $recoveryRequest,
            $view->user,
        );
        TrailEntry::add("Run {$run->id} was ordered: {$order->sentence}", $recoveryRequest, $view->user, $run);
        CarryOutRun::dispatch($run->id);

        return redirect("/runs/{$run->id}");
    }

    private static function view(BlankRequest $request, RecoveryRequest $recoveryRequest): BlankView
    {
        abort_unless($recoveryRequest->workload !== null && MetalSources::isMachine($recoveryRequest->workload), 404);
        $user = $request->user();
        assert($user instanceof User);

        return new BlankView($recoveryRequest, $user, $request->wish($recoveryRequest), $request->integer('on'));
    }
}
