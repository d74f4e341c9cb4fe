<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Jobs\CarryOutRun;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Orders\Worksheet;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

final class StartRunController
{
    public function __invoke(Request $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);

        return DB::transaction(function () use ($recoveryRequest, $user, $request): RedirectResponse {
            // Two confirmations at once are one run.
            $locked = RecoveryRequest::query()->lockForUpdate()->findOrFail($recoveryRequest->id);
            $sheet = new Worksheet($locked);
            if ($sheet->blockers !== []) {
                return redirect("/requests/{$locked->id}?show=run")->withErrors(['run' => $sheet->blockers[0]]);
            }
            if ($request->string('order')->value() !== $sheet->fingerprint()) {
                return redirect("/requests/{$locked->id}?show=run")->withErrors(['run' => 'The order changed since it was shown. Read it again, then confirm.']);
            }
            $plan = $request->boolean('set_first') ? $sheet->restorePlan()->withSetFirst() : $sheet->restorePlan();
            if ($locked->destination === 'new-folder' && ! is_dir(dirname($plan->target))) {
                mkdir(dirname($plan->target), 0755, true);
            }
            $run = Run::query()->create(['request_id' => $locked->id, 'workload_id' => $locked->workload_id, 'set_id' => $sheet->point?->id, 'user_id' => $user->id, 'state' => 'queued', 'plan' => $plan->toArray()]);
            $locked->update(['state' => 'running', 'operator_id' => $user->id]);
            TrailEntry::add("Run {$run->id} was ordered: {$plan->sentence}", $locked, $user, $run);
            CarryOutRun::dispatch($run->id);

            return redirect("/requests/{$locked->id}?show=proof");
        });
    }
}
