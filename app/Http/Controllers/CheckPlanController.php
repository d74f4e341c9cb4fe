<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\CheckPlanRequest;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use Illuminate\Http\RedirectResponse;
use InvalidArgumentException;
use Kaiseki\Core\Protect\Window;

/** Settles how much of a store is read back each night. */
final class CheckPlanController
{
    public function __invoke(CheckPlanRequest $request, Store $store): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        [$from, $until, $zone] = [$request->string('from')->value(), $request->string('until')->value(), $user->zone];
        try {
            Window::of($from, $until, $zone);
        } catch (InvalidArgumentException $wrong) {
            return redirect('/stores')->withErrors(['from' => $wrong->getMessage()]);
        }
        $bytes = (int) ((float) $request->input('mb', 0) * 1e6);
        $store->update([
            'check_bytes_a_night' => $bytes > 0 ? $bytes : null,
            'check_from' => $from,
            'check_until' => $until,
            'check_zone' => $zone,
        ]);
        TrailEntry::add(
            $bytes > 0
                ? "The copies on {$store->name} are read back every night."
                : "The copies on {$store->name} are no longer read back by plan.",
            null,
            $user,
            sort: TrailSort::Rule,
        );

        return redirect('/stores')->with('told', 'Settled.');
    }
}
