<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Kinds\Kinds;
use App\Models\Run;
use App\Models\User;
use App\Orders\CannotOrder;
use App\Orders\Deeds;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Has a run undone, in a worker. */
final class PutBackController
{
    public function __invoke(Request $request, Run $run): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        if (! $run->canBePutBack()) {
            return redirect($run->page())->withErrors(['run' => 'There is nothing to put back of this run.']);
        }
        $alsoChanged = $request->boolean('also_changed');
        $losesChanges = $alsoChanged || Kinds::of($run)->carrier()->losesLaterChanges();
        $words = "Put back run {$run->id} of {$run->workload->name}".
            ($losesChanges
                ? ', also where somebody changed since what it had placed.'
                : ': what it brought goes, and what it replaced comes back.');
        try {
            $marked = $losesChanges ? $run->marked() : $run->markedPlace();
            $deed = $alsoChanged ? Deeds::PutBackChanged : Deeds::PutBack;
            $detail = ['run' => $run->id];
            $told = $marked === null ? $deed->carryOut($run->workload, $detail, $user) : $deed->doOrAsk($marked, $detail, $words, $user);
        } catch (CannotOrder $cannot) {
            return redirect($run->page())->withErrors(['run' => $cannot->getMessage()]);
        }

        return redirect($run->page())->with('told', $told);
    }
}
