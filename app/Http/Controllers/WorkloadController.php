<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\User;
use App\Models\Workload;
use App\View\WorkloadView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

/** One workload: its history, its chart, its copies, what is asked of it and what was run. */
final class WorkloadController
{
    public function __invoke(Request $request, Workload $workload): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('workload', ['view' => new WorkloadView($workload, $user, $request)]);
    }
}
