<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Approval;
use App\Models\Consent;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use App\Runs\SetAsides;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

final class DeskController
{
    public function __invoke(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('desk', [
            'approvals' => $user->role === Role::Requester
                    ? collect()
                    : Approval::seenBy($user)
                        ->where(
                            fn ($query) => $query
                                ->where('state', 'asked')
                                ->orWhere(fn ($query) => $query->where('state', 'overridden')->whereNull('reviewed_at')),
                        )
                        ->orderBy('asked_at')
                        ->get(),
            'consents' => $user->role === Role::Requester
                ? collect()
                : Consent::seenBy($user)->where('state', 'asked')->orderBy('asked_at')->get(),
            'setAside' => $user->role === Role::Operator
                    ? SetAsides::kept()
                        ->whereIn('workload_id', Workload::seenBy($user)->select('id'))
                        ->limit(20)
                        ->get()
                    : collect(),
            'open' => RecoveryRequest::seenBy($user)
                ->with('workload', 'requester')
                ->where('state', '<>', 'closed')
                ->orderBy('due_at')
                ->limit(100)
                ->get(),
            'closed' => RecoveryRequest::seenBy($user)
                ->with('workload', 'requester')
                ->where('state', 'closed')
                ->latest('closed_at')
                ->limit(8)
                ->get(),
            'running' => Run::query()
                ->with('workload', 'request')
                ->whereIn('state', ['queued', 'running'])
                ->whereIn('workload_id', Workload::seenBy($user)->select('id'))
                ->get()
                ->filter(fn (Run $run): bool => $user->can('view', $run)),
        ]);
    }
}
