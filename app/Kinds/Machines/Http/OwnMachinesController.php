<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\KeptLayout;
use App\Kinds\Machines\Metal\OrderedRun;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Own\OwnMachine;
use App\Kinds\Machines\Page\MetalView;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

/** A machine onto other disks, by a person whose it is: they make the code, start a medium there, and say yes to what is written over. */
final class OwnMachinesController
{
    public function index(Request $request): View
    {
        $user = self::user($request);
        $machines = OwnMachine::machines($user);
        $open = Enrolment::query()->where('user_id', $user->id)->whereNull('ended_at')->with('workload', 'run')->orderByDesc('id')->get()
            ->filter(fn (Enrolment $one): bool => $user->can('rebuild', $one));
        abort_if($machines->isEmpty() && $open->isEmpty(), 403, 'Nobody lets you bring a machine onto other disks yourself.');

        return view('kinds.machine.own', ['machines' => $machines, 'open' => $open, 'zone' => $user->zone]);
    }

    /** A code for a medium, and a request that it is for. */
    public function code(Request $request, Workload $workload): RedirectResponse
    {
        $user = self::user($request);
        abort_if(OwnMachine::by($user, $workload) === null, 403);
        [$one, $code] = DB::transaction(function () use ($user, $workload): array {
            $now = now()->toImmutable();
            $for = RecoveryRequest::query()->create([
                'workload_id' => $workload->id,
                'requester_id' => $user->id,
                'summary' => "{$workload->name} onto other disks, by its owner",
                'reason' => 'Brought onto other disks by the person whose it is.',
                'wanted_at' => $now,
                'wanted_zone' => $user->zone,
                'due_at' => $now->addHours(4),
                'demands' => 'consistent',
                'state' => 'open',
            ]);
            TrailEntry::add('The request came in, from the person whose machine it is.', $for, $user);

            return Enrolment::open($workload, $for, $user);
        });

        return redirect(self::page($one))->with('code', $code);
    }

    public function show(Request $request, Enrolment $enrolment): View
    {
        $user = self::user($request);

        return view('kinds.machine.own-metal', ['view' => new MetalView($enrolment, $user), 'zone' => $user->zone]);
    }

    public function decide(Request $request, Enrolment $enrolment): RedirectResponse
    {
        $user = self::user($request);
        $page = self::page($enrolment);
        if ($request->string('do')->value() === 'end') {
            $enrolment->run !== null && ! $enrolment->run->isOver() && abort(409);
            $enrolment->endBy($user);

            return redirect($page);
        }
        $view = new MetalView($enrolment, $user);
        try {
            $view->point === null || KeptLayout::read($view->points, $view->point, $view->copies());
        } catch (CannotBring $cannot) {
            return redirect($page)->withErrors(['layout' => $cannot->getMessage()]);
        }
        $view = new MetalView($enrolment, $user);
        if ($view->plan === null || $request->string('do')->value() !== 'order') {
            return redirect($page);
        }
        $typed = fn (string $disk): string => $request->string("confirm_$disk")->value();
        $blockers = [...$view->plan->blockers(), ...$view->plan->unconfirmed($typed)];
        if ($blockers !== []) {
            return redirect($page)->withErrors(['order' => implode(' ', $blockers)])->withInput();
        }

        return $this->order($view, $user);
    }

    private function order(MetalView $view, User $user): RedirectResponse
    {
        $one = $view->enrolment;
        $by = OwnMachine::by($user, $one->workload);
        if ($by === null || $view->plan === null) {
            abort(403);
        }
        $order = $view->plan->ordered()->with(ownOf: $user->id);
        $run = OrderedRun::begin(
            $one->workload,
            $view->plan->point,
            $order->toArray(),
            $view->plan->layout->leftAlone === [],
            $one->request,
            $user,
        );
        $by->use($run);
        $one->request?->update(['state' => 'running']);
        TrailEntry::add("Run {$run->id} was ordered by the person whose machine it is: {$order->sentence}", $one->request, $user, $run);
        CarryOutRun::dispatch($run->id);

        return redirect("/requests/{$one->request_id}");
    }

    public static function page(Enrolment $one): string
    {
        return "/own-machines/enrolments/{$one->id}";
    }

    private static function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
