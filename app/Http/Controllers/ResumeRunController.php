<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Jobs\CarryOutRun;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
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
        $run->update(['user_id' => $user->id]); // who sets it going must be one who may reach its target
        $run->goOn();
        $run->request?->update(['state' => 'running']);
        TrailEntry::add("Run {$run->id} is gone on with.", $run->request, $user, $run);
        CarryOutRun::dispatch($run->id);

        return redirect($run->page());
    }
}
