<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Jobs\LookAtStores;
use App\Jobs\ReckonStanding;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Somebody does not want to wait until all workloads are looked at again by themselves. */
final class LookAgainController
{
    public function __invoke(Request $request): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        LookAtStores::dispatch();
        ReckonStanding::begin(...array_map(intval(...), Workload::seenBy($user)->pluck('id')->all()));

        return back();
    }
}
