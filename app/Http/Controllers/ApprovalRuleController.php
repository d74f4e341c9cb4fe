<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use App\Orders\Deeds;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Whether replacing anything of a workload in place waits for a second person, and how long without one. Nobody lifts it alone. */
final class ApprovalRuleController
{
    /** Minutes. */
    private const LONGEST_WAIT = 1440;

    public function __invoke(Request $request, Workload $workload): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $back = redirect("/workloads/{$workload->id}/care");
        if ($request->filled('minutes')) {
            abort_unless($user->can('settleWait', $workload), 403);
            $minutes = $request->integer('minutes');
            abort_unless($minutes >= 0 && $minutes <= self::LONGEST_WAIT, 422);
            $workload->update(['override_wait_min' => $minutes]);
            TrailEntry::add(
                "What is begun of {$workload->name} without a second person waits $minutes minutes from now on.",
                null,
                $user,
                sort: TrailSort::Rule,
            );

            return $back->with('told', 'Settled.');
        }
        abort_unless($user->can('askForApproval', $workload), 403);
        if ($request->boolean('needs')) {
            $workload->update(['needs_approval' => true]);
            TrailEntry::add(
                "Replacing anything of {$workload->name} in place waits for a second person from now on.",
                null,
                $user,
                sort: TrailSort::Rule,
            );

            return $back->with('told', 'Settled.');
        }

        $words = "Let what replaces anything of {$workload->name} in place begin without a second person from now on.";

        $told = $workload->needs_approval ? Deeds::LiftMark->doOrAsk($workload, [], $words, $user) : 'It is not marked.';

        return $back->with('told', $told);
    }
}
