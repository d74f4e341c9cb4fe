<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Activity\Activities;
use App\Activity\ActivityLog;
use App\Activity\ActivitySort;
use App\Models\User;
use App\Models\Workload;
use App\View\ActivityView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Gate;

/** What was done to the estate, and the log of each. */
final class ActivityController
{
    public function index(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('activity.index', ['view' => new ActivityView($user, $request)]);
    }

    public function show(Request $request, ActivitySort $sort, int $id): View
    {
        $user = $request->user();
        assert($user instanceof User);
        $line = Activities::find($sort, $id) ?? abort(404);
        Gate::authorize('view', Workload::query()->findOrFail($line->workload));

        return view('activity.show', ['line' => $line, 'log' => ActivityLog::of($line), 'zone' => $user->zone]);
    }
}
