<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\MakeSetRequest;
use App\Jobs\MakeSet;
use App\Models\Making;
use App\Models\Schedule;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Http\RedirectResponse;

/** Has a set made now. */
final class MakeSetController
{
    public function __invoke(MakeSetRequest $request, Workload $workload): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        if (Making::query()->where('workload_id', $workload->id)->whereIn('state', ['queued', 'running'])->exists()) {
            return back()->withErrors(['level' => 'A set of it is being made already.']);
        }
        $store = Store::query()->findOrFail($request->integer('store'));
        abort_unless($user->can('write', $store), 403);
        $schedule = Schedule::query()->where('workload_id', $workload->id)->first();
        MakeSet::begin($workload, $store, $request->string('level')->value(), 'by hand', $user, $schedule);

        return redirect("/workloads/{$workload->id}/care")->with('told', 'A set is being made.');
    }
}
