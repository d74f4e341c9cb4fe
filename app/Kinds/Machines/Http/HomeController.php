<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Jobs\CarryOutRun;
use App\Kinds\Kinds;
use App\Kinds\Machines\Home\GoHome;
use App\Kinds\Machines\Home\HomeOrder;
use App\Kinds\Machines\Home\StandIn;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\Right;
use App\Models\Run;
use App\Models\User;
use App\Rights\PersonRights;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Kaiseki\Core\Files\UnableToRestore;

/** Has a machine that was brought back elsewhere stand in for its original, go home, and be accepted there. */
final class HomeController
{
    public function standIn(Request $request, Run $run): RedirectResponse
    {
        $user = self::user($request);
        $standIn = new StandIn($run);
        abort_unless($standIn->isPossible(), 404);
        $host = HypervisorHost::query()->where('name', $run->plan['on'])->first() ?? abort(404);
        try {
            self::refuse($user, $host);
            $substitute = $standIn->begin($request->boolean('home_is_down'), $user, $request->string('address')->trim()->value());
        } catch (CannotBring $cannot) {
            return redirect("{$run->page()}#home")->withErrors(['home' => $cannot->getMessage()])->withInput();
        }

        return redirect("{$run->page()}#home")->with('told', "Sets are made of {$substitute->machine} at {$host->name} from now on.");
    }

    public function goHome(HomeRequest $request, Run $run): RedirectResponse
    {
        $user = self::user($request);
        $substitute = Substitute::active($run) ?? abort(404);
        try {
            self::refuse($user, $substitute->hypervisor, HomeOrder::of($substitute, $request->wish())->home());
            $at = $request->at($user);
            if ($at !== null) {
                (new GoHome($substitute))->orderAt($at, $request->wish(), $user);

                return redirect("{$run->page()}#home")->with('told', 'It is brought home then.');
            }
            $home = (new GoHome($substitute))->order($request->wish(), $user);
        } catch (CannotBring $cannot) {
            return redirect("{$run->page()}#home")->withErrors(['home' => $cannot->getMessage()])->withInput();
        }
        CarryOutRun::dispatch($home->id);

        return redirect($home->page())->with('told', 'It is being brought home.');
    }

    /** That a machine is home: what stood in for it goes for good. */
    public function accept(Request $request, Run $run): RedirectResponse
    {
        $user = self::user($request);
        abort_unless(($run->plan['way'] ?? '') === HomeOrder::WAY && $run->set_aside_until !== null && $run->put_back_at === null, 404);
        $substitute = HomeOrder::fromArray($run->plan)->substitute();
        try {
            self::refuse($user, $substitute->hypervisor);
            $marked = $run->marked();
            $marked === null || throw CannotBring::because("{$marked->name} is marked: what stood in goes by itself after its time, ".
                'or once a second person has agreed to lift the mark.');
            $request->boolean('sure') || throw CannotBring::because('Say that what stood in may go for good.');
            Kinds::of($run)->carrier()->clearAside($run, $user);
        } catch (CannotBring|UnableToRestore $cannot) {
            return redirect("{$run->page()}#home")->withErrors(['home' => $cannot->getMessage()]);
        }

        return redirect($run->page())->with('told', "What stood in at {$substitute->hypervisor->name} is gone.");
    }

    /** @throws CannotBring */
    private static function refuse(User $user, HypervisorHost ...$hosts): void
    {
        foreach ($hosts as $host) {
            $refused = PersonRights::of($user)->refuses(Right::Write, $host);
            $refused === null || throw CannotBring::because($refused);
        }
    }

    private static function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
