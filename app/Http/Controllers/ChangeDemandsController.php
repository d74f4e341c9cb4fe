<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\DemandRequest;
use App\Models\RecoveryRequest;
use App\View\RequestFrame;
use Illuminate\Http\RedirectResponse;
use Kaiseki\Core\Chain\Demands;

/** Turns one demand on or off. */
final class ChangeDemandsController
{
    public function __invoke(DemandRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $now = Demands::parse($recoveryRequest->demands);
        $which = $request->string('demand')->value();
        $site = $recoveryRequest->workload->site ?? null;
        $demands = new Demands(
            $which === 'consistent' ? ! $now->consistent : $now->consistent,
            $which === 'clear' ? ! $now->clear : $now->clear,
            $which === 'checked' ? ! $now->checked : $now->checked,
            $which === 'site' ? ($now->site === null ? $site : null) : $now->site,
            $which !== 'within'
                ? $now->withinSeconds
                : ($request->filled('within')
                    ? Demands::span($request->string('within')->value())
                    : null),
        );
        $recoveryRequest->update(['demands' => $demands->list(), 'set_id' => null]);

        $show = $request->string('show')->value();

        return redirect("/requests/{$recoveryRequest->id}?show=".(isset(RequestFrame::PICKERS[$show]) ? $show : 'when'));
    }
}
