<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Run;
use App\Models\User;
use App\Orders\CannotOrder;
use App\Orders\Deeds;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Goes on with a run that was stopped or failed. */
final class ResumeRunController
{
    public function __invoke(Request $request, Run $run): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        if (! $run->canBeGoneOnWith() || in_array($run->request?->state, ['closed', 'running'], true)) {
            return redirect($run->page())->withErrors(['run' => 'This run cannot be gone on with.']);
        }
        $detail = ['run' => $run->id];
        try {
            // What was approved as a whole is not asked about again; a mark that came since is.
            $marked = $run->wasAgreedTo() ? null : $run->markedPlace();
            $told = $marked === null
                ? Deeds::GoOn->carryOut($run->workload, $detail, $user)
                : Deeds::GoOn->doOrAsk($marked, $detail, "Go on with run {$run->id}: {$run->plan['sentence']}", $user);
        } catch (CannotOrder $cannot) {
            return redirect($run->page())->withErrors(['run' => $cannot->getMessage()]);
        }

        return redirect($run->page())->with('told', $told);
    }
}
