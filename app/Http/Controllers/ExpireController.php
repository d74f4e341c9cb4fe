<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Estate\CannotRegister;
use App\Models\User;
use App\Models\Workload;
use App\Trust\Expiry;
use App\View\Words;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Deletes what the rules no longer keep, as it was shown. */
final class ExpireController
{
    public function __invoke(Request $request, Workload $workload): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $expiry = new Expiry($workload);
        if ($request->string('plan')->value() !== $expiry->fingerprint()) {
            return redirect("/workloads/{$workload->id}/care")->withErrors(['plan' => 'What would be deleted changed since it was shown. Read it again, then confirm.']);
        }
        try {
            $done = $expiry->carryOut($user, $request->string('everything')->value() === $workload->name);
        } catch (CannotRegister $cannot) {
            return redirect("/workloads/{$workload->id}/care")->withErrors(['plan' => $cannot->getMessage()]);
        }
        $told = Words::count($done['copies'], 'copy', 'copies').' deleted, '.Words::size($done['bytes']).' freed.';

        return $done['failed'] === [] ? redirect("/workloads/{$workload->id}/care")->with('told', $told) : redirect("/workloads/{$workload->id}/care")->withErrors(['plan' => "$told Not deleted: ".implode('; ', $done['failed'])]);
    }
}
