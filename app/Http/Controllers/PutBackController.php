<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Jobs\PutBackRun;
use App\Kinds\Kinds;
use App\Models\Run;
use App\Models\TrailEntry;
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
        if (($request->boolean('also_changed') || Kinds::of($run)->carrier()->losesLaterChanges()) && $run->marked() !== null) {
            try {
                $words = "Put back run {$run->id} of {$run->workload->name}, also where somebody changed since what it had placed.";
                $told = Deeds::PutBackChanged->doOrAsk($run->marked(), ['run' => $run->id], $words, $user);
            } catch (CannotOrder $cannot) {
                return redirect($run->page())->withErrors(['run' => $cannot->getMessage()]);
            }

            return redirect($run->page())->with('told', $told);
        }
        $run->update(['outcome' => ['put_back' => ['state' => 'asked', 'by' => $user->name]] + ($run->outcome ?? [])]);
        TrailEntry::add("Run {$run->id} is to be put back.", $run->request, $user, $run);
        PutBackRun::dispatch($run->id, $request->boolean('also_changed'));

        return redirect($run->page());
    }
}
