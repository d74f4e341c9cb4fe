<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Whether replacing anything of a workload in place waits for a second person. Who is bound by it cannot lift it. */
final class ApprovalRuleController
{
    public function __invoke(Request $request, Workload $workload): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $needs = $request->boolean('needs');
        abort_unless($user->can($needs ? 'askForApproval' : 'waiveApproval', $workload), 403);
        $workload->update(['needs_approval' => $needs]);
        TrailEntry::add("Replacing anything of {$workload->name} in place ".($needs ? 'waits for a second person from now on.' : 'does not wait for a second person any more.'), null, $user);

        return redirect("/workloads/{$workload->id}/care")->with('told', 'Settled.');
    }
}
