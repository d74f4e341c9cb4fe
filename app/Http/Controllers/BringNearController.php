<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Jobs\BringSetsNear;
use App\Kinds\Kinds;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use App\Runs\Shelf;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Has the sets that would be read from tape or from afar copied to a store beside the target first. */
final class BringNearController
{
    public function __invoke(Request $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $back = redirect("/requests/{$recoveryRequest->id}?show=how");
        $copies = Kinds::ofRequest($recoveryRequest)->sheet($recoveryRequest)->copies();
        $store = $copies?->nearStore();
        $far = $copies?->farSets() ?? [];
        if ($store === null || $far === [] || $user->cannot('write', $store)) {
            return $back->withErrors([
                'bring' => $far === []
                        ? 'Nothing has to be brought: all of it is read beside the target.'
                        : 'There is no store of ours beside the target to bring them to.',
            ]);
        }
        $toFetch = $copies?->reading?->estimate()->toFetch ?? [];
        if ($toFetch !== []) {
            Shelf::call($toFetch, null, $user);

            return $back->withErrors([
                'bring' => 'They lie on '.implode(' and ', $toFetch).', on the shelf. It is asked for; bring the sets when it has arrived.',
            ]);
        }
        BringSetsNear::begin($recoveryRequest, $store, $far);
        TrailEntry::add(count($far)." sets are brought to {$store->name} first.", $recoveryRequest, $user);

        return $back;
    }
}
