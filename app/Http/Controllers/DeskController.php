<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

final class DeskController
{
    public function __invoke(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('desk', [
            'open' => RecoveryRequest::seenBy($user)->with('workload', 'requester')->where('state', '<>', 'closed')->orderBy('due_at')->limit(100)->get(),
            'closed' => RecoveryRequest::seenBy($user)->with('workload', 'requester')->where('state', 'closed')->latest('closed_at')->limit(8)->get(),
            'running' => Run::query()->with('workload', 'request')->whereIn('state', ['queued', 'running'])->whereIn('workload_id', Workload::seenBy($user)->select('id'))->get()
                ->filter(fn (Run $run): bool => $user->can('view', $run)),
        ]);
    }
}
