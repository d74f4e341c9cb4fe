<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\VerdictRequest;
use App\Models\BackupSet;
use App\Models\User;
use App\Trees\Doubt\DoubtBook;
use Illuminate\Http\RedirectResponse;

/** A person overrules the signs of a set. */
final class VerdictController
{
    public function __invoke(VerdictRequest $request, BackupSet $backupSet): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        (new DoubtBook)->overrule($backupSet, $request->string('verdict')->value(), $request->string('reason')->value(), $user);

        return redirect("/sets/{$backupSet->id}")->with('told', 'Your verdict counts, and its reason is kept.');
    }
}
