<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\DecisionRequest;
use App\Models\Approval;
use App\Models\User;
use App\Orders\Approvals;
use App\Orders\CannotOrder;
use App\View\ApprovalView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

final class ApprovalController
{
    public function show(Request $request, Approval $approval): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('approval', ['view' => new ApprovalView($approval, $user)]);
    }

    public function update(DecisionRequest $request, Approval $approval): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $words = $request->filled('words') ? $request->string('words')->value() : null;
        try {
            match ($request->string('do')->value()) {
                'approve' => Approvals::decide($approval, $user, $request->string('seen')->value(), $words),
                'refuse' => Approvals::decide($approval, $user, null, $words),
                'withdraw' => Approvals::withdraw($approval, $user),
                default => Approvals::review($approval, $user, (string) $words),
            };
        } catch (CannotOrder $cannot) {
            return redirect("/approvals/{$approval->id}")->withErrors(['do' => $cannot->getMessage()]);
        }

        return $request->string('do')->value() === 'withdraw'
            ? redirect("/requests/{$approval->request_id}?show=run")
            : redirect("/approvals/{$approval->id}")->with('told', 'It is written down.');
    }
}
