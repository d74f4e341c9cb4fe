<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Care\Schedules;
use App\Http\Requests\ScheduleRequest;
use App\Models\Schedule;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Http\RedirectResponse;
use InvalidArgumentException;

/** Settles when sets of a workload are made. */
final class ScheduleController
{
    public function __invoke(ScheduleRequest $request, Workload $workload): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $store = Store::query()->findOrFail($request->integer('store'));
        $others = Store::query()->whereIn('id', $request->input('copy_to', []))->get();
        abort_unless($others->every(fn (Store $one): bool => $user->can('write', $one)) && $user->can('write', $store), 403);
        $now = Schedule::query()->where('workload_id', $workload->id)->first();
        try {
            // What is run on the machine of a source is not decided in a browser: the commands stay as the command line set them.
            $schedule = Schedules::settle(
                ['workload_id' => $workload->id],
                $store,
                $request->times(),
                $request->string('zone')->value(),
                $request->filledText('hours'),
                $others->pluck('name')->all(),
                $request->filledText('copy_from'),
                $now?->before,
                $now?->after,
                $now->limit_s ?? 60,
                $request->boolean('on'),
            );
        } catch (InvalidArgumentException $wrong) {
            return back()
                ->withInput()
                ->withErrors(['times' => $wrong->getMessage()]);
        }
        TrailEntry::add("The schedule of {$workload->name} was settled.", null, $user, sort: TrailSort::Rule);

        return redirect("/workloads/{$workload->id}/care")->with(
            'told',
            $schedule->on ? 'The schedule is settled.' : 'The schedule is off.',
        );
    }
}
