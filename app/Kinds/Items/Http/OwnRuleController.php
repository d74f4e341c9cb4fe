<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Kinds\Items\Own\OwnRule;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Lets people bring back what is their own of a workload, or does not any more. */
final class OwnRuleController
{
    public function __invoke(Request $request, Workload $workload): RedirectResponse
    {
        $request->validate([
            'do' => 'required|in:allow,end',
            'most_items' => 'required_if:do,allow|nullable|integer|min:1|max:100000',
            'most_mb' => 'required_if:do,allow|nullable|integer|min:1|max:100000',
        ]);
        $user = $request->user();
        assert($user instanceof User);
        if ($request->string('do')->value() === 'end') {
            OwnRule::end($workload, $user);
        } else {
            OwnRule::settle($workload, $request->integer('most_items'), $request->integer('most_mb'), $user);
        }

        return redirect("/workloads/{$workload->id}/care")->with('told', 'Settled.');
    }
}
