<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Standing\Following;
use App\Kinds\Machines\Standing\FollowStep;
use App\Kinds\Machines\Standing\Settle;
use App\Kinds\Machines\Standing\Standing;
use App\Models\Right;
use App\Models\Run;
use App\Models\User;
use App\Rights\PersonRights;
use Illuminate\Http\RedirectResponse;

/** Has a machine that stands settled, now or later; or, while it is settled, sets its speed; or has one that follows take its last step. */
final class SettleController
{
    public function __invoke(SettleRequest $request, Run $run): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $following = Following::active($run);
        $standing = Standing::ofRun($run);
        $host = ($following ?? $standing)->hypervisor ?? abort(404);
        $refused = PersonRights::of($user)->refuses(Right::Write, $host);
        if ($refused !== null) {
            return redirect($run->page())->withErrors(['run' => $refused]);
        }
        try {
            [$page, $told] = match (true) {
                $following !== null => $this->lastStep($following),
                default => $this->decide($standing ?? abort(404), $request, $user),
            };
        } catch (CannotBring $cannot) {
            return redirect($run->page())->withErrors(['run' => $cannot->getMessage()]);
        }

        return redirect($page)->with('told', $told);
    }

    /**
     * @return array{string, string}
     *
     * @throws CannotBring
     */
    private function lastStep(Following $following): array
    {
        $run = (new FollowStep($following))->last();
        Settle::begin($run);

        return [$run->page(), 'It goes to the newest point, and is started.'];
    }

    /**
     * @return array{string, string} where to go on, and what is told there
     *
     * @throws CannotBring
     */
    private function decide(Standing $standing, SettleRequest $request, User $user): array
    {
        $settle = new Settle($standing);
        $at = $request->at($user);
        if ($at !== null) {
            $settle->orderAt($at, $request->wish(), $user);

            return [$standing->run->page(), 'It is settled then.'];
        }
        if ($standing->isBeingSettled()) {
            $settle->limit($request->wish()->limit, $user);

            return [$standing->settling?->page() ?? $standing->run->page(), 'It goes on at that speed.'];
        }
        $run = $settle->order($request->wish(), $user);
        Settle::begin($run);

        return [$run->page(), 'It is being settled.'];
    }
}
