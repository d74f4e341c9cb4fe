<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Care\Holds;
use App\Http\Requests\HoldRequest;
use App\Models\BackupSet;
use App\Models\Hold;
use App\Models\User;
use App\Orders\CannotOrder;
use App\Orders\Deeds;
use App\Sets\CannotRegister;
use App\Words;
use Carbon\CarbonImmutable;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use InvalidArgumentException;

/** Keeps a set from expiring, and lets it go. */
final class HoldController
{
    public function store(HoldRequest $request, BackupSet $backupSet): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        try {
            $until = $request->filled('until') ? CarbonImmutable::parse($request->string('until')->value(), $user->zone)->endOfDay() : null;
            [, $copied] = (new Holds)->put($backupSet, $request->string('reason')->value(), $until, $user);
        } catch (CannotRegister|InvalidArgumentException $cannot) {
            return redirect("/sets/{$backupSet->id}")->withErrors(['hold' => $cannot->getMessage()]);
        }

        return redirect("/sets/{$backupSet->id}")->with(
            'told',
            'It is held, with all it rests on.'.
                ($copied > 0 ? ' '.Words::count($copied, 'set').' copied to a store of ours for that.' : ''),
        );
    }

    public function destroy(Request $request, BackupSet $backupSet, Hold $hold): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        abort_unless($hold->set_id === $backupSet->id, 404);
        $words = "Lift the hold of {$backupSet->name}: {$hold->reason}. It may expire then.";
        try {
            $told = Deeds::LiftHold->doOrAsk($backupSet->workload, ['hold' => $hold->id], $words, $user);
        } catch (CannotOrder $cannot) {
            return redirect("/sets/{$backupSet->id}")->withErrors(['hold' => $cannot->getMessage()]);
        }

        return redirect("/sets/{$backupSet->id}")->with('told', $told);
    }
}
