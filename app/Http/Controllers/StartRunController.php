<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\OrderRequest;
use App\Models\Approval;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Orders\Approvals;
use App\Orders\CannotOrder;
use Illuminate\Http\RedirectResponse;

final class StartRunController
{
    public function __invoke(OrderRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $order = $request->string('order')->value();
        try {
            $begun = $request->filled('reason')
                ? Approvals::override($recoveryRequest, $user, $order, $request->string('reason')->value(), $request->boolean('set_first'))
                : Approvals::order($recoveryRequest, $user, $order, $request->boolean('set_first'));
        } catch (CannotOrder $cannot) {
            return redirect("/requests/{$recoveryRequest->id}?show=run")->withErrors(['run' => $cannot->getMessage()]);
        }

        return redirect("/requests/{$recoveryRequest->id}?show=".($begun instanceof Approval ? 'run' : 'proof'));
    }
}
