<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Care\Expiry;
use App\Models\User;
use App\Models\Workload;
use App\Orders\CannotOrder;
use App\Orders\Deeds;
use App\Words;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Deletes what the rules no longer keep, as it was shown. */
final class ExpireController
{
    public function __invoke(Request $request, Workload $workload): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $back = redirect("/workloads/{$workload->id}/care");
        $expiry = new Expiry($workload);
        if ($request->string('plan')->value() !== $expiry->fingerprint()) {
            return $back->withErrors(['plan' => 'What would be deleted changed since it was shown. Read it again, then confirm.']);
        }
        $detail = ['plan' => $expiry->fingerprint(), 'everything' => $request->string('everything')->value() === $workload->name];
        $copies = Words::count(count($expiry->lines()), 'copy', 'copies').' of '.$workload->name.', '.Words::size($expiry->bytes());
        $points = Words::count(count($expiry->plan->goneSets()), 'point goes', 'points go');
        $words = "Delete $copies, which the rules do not keep; $points with them.";
        try {
            return $back->with('told', Deeds::Delete->doOrAsk($workload, $detail, $words, $user));
        } catch (CannotOrder $cannot) {
            return $back->withErrors(['plan' => $cannot->getMessage()]);
        }
    }
}
