<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\NewRequest;
use App\Kinds\Kinds;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\View\OwnRequestView;
use Carbon\CarbonImmutable;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

final class RequestController
{
    public function create(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('requests.create', [
            'workloads' => Workload::seenBy($user)->orderBy('name')->get(),
            'requesters' => $user->role === Role::Operator ? User::query()->orderBy('name')->get() : collect([$user]),
        ]);
    }

    public function store(NewRequest $request): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $moment = fn (string $field): ?CarbonImmutable => $request->filled($field)
            ? CarbonImmutable::parse($request->string($field)->value(), $user->zone)->utc()
            : null;
        $new = new RecoveryRequest([
            'workload_id' => $request->integer('workload') ?: null,
            'requester_id' => $user->role === Role::Operator ? ($request->integer('requester') ?: $user->id) : $user->id,
            'summary' => $request->string('summary')->value(),
            'reason' => $request->string('reason')->value(),
            'lost' => $request->filled('lost') ? $request->string('lost')->value() : null,
            'noticed_at' => $moment('noticed_at'),
            'due_at' => $moment('due_at'),
        ]);
        $requester = User::query()->findOrFail($new->requester_id);
        $new->wantAsSaid($request->string('wanted_at')->value(), $requester->zone);
        if ($new->noticed_at?->isBefore($new->wanted_at) === true) {
            return back()
                ->withInput()
                ->withErrors(['noticed_at' => 'It cannot have been noticed before it was last good.']);
        }
        $new->save();
        TrailEntry::add('The request came in.', $new, $user);

        return redirect("/requests/{$new->id}")->with('told', "Request {$new->id} is on the desk.");
    }

    public function show(Request $request, RecoveryRequest $recoveryRequest): View
    {
        $user = $request->user();
        assert($user instanceof User);

        if ($user->cannot('look', $recoveryRequest)) {
            return view('requests.own', ['view' => new OwnRequestView($recoveryRequest, $user)]);
        }

        return Kinds::ofRequest($recoveryRequest)->page($recoveryRequest, $user, $request);
    }
}
