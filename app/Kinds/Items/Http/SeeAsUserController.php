<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Kinds\Items\Order\CannotBringItems;
use App\Kinds\Items\Run\SeenAsUser;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\RateLimiter;
use Kaiseki\Core\Proof\CheckLine;

/** Signs in once as the person whose mailbox it is, to see what a run laid there. */
final class SeeAsUserController
{
    /** So often, in so many seconds: it is a way to try passwords. */
    private const TRIES = 5;

    private const WITHIN_S = 900;

    public function __invoke(Request $request, Run $run): RedirectResponse
    {
        $request->validate(['password' => 'required|string|max:500']);
        $user = $request->user();
        assert($user instanceof User);
        $back = redirect($run->page());
        $key = "seen-as-user:{$user->id}";
        if (RateLimiter::tooManyAttempts($key, self::TRIES)) {
            return $back->withErrors(['password' => 'That was tried too often: wait a quarter of an hour.']);
        }
        RateLimiter::hit($key, self::WITHIN_S);
        try {
            $lines = SeenAsUser::look($run, $user, $request->string('password')->value());
        } catch (CannotBringItems $cannot) {
            $what = "Tried to sign in to see what run {$run->id} laid: {$cannot->getMessage()}";
            TrailEntry::add(mb_strcut($what, 0, 900), $run->request, $user, $run, TrailSort::Content);

            return $back->withErrors(['password' => $cannot->getMessage()]);
        }
        RateLimiter::clear($key);

        return $back->with('told', CheckLine::wrong($lines) === [] ? 'All of it is there, as you see it.' : 'Not all of it is there.');
    }
}
