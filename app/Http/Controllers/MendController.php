<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Care\Mending;
use App\Models\BackupSet;
use App\Models\User;
use App\Sets\CannotRegister;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Makes a damaged copy right again from the others. */
final class MendController
{
    public function __invoke(Request $request, BackupSet $backupSet): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $copy = $backupSet->copies()->with('store', 'set')->findOrFail($request->integer('copy'));
        try {
            $check = (new Mending)->mend($copy, $user);
        } catch (CannotRegister $cannot) {
            return redirect("/sets/{$backupSet->id}")->withErrors(['copy' => $cannot->getMessage()]);
        }

        return $check->isRight()
            ? redirect("/sets/{$backupSet->id}")->with('told', "Mended, read back, and right on {$check->store_name}.")
            : redirect("/sets/{$backupSet->id}")->withErrors(['copy' => (string) $check->because]);
    }
}
