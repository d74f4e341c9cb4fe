<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Jobs\ReadBackCopies;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\User;
use App\Sets\Points;
use App\Sets\SetOutline;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Has the copies of a set, or of its whole chain, read back. */
final class ReadBackSetController
{
    public function __invoke(Request $request, BackupSet $backupSet): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $chain = $request->boolean('chain') ? (new Points($backupSet->workload))->chain($backupSet->name) : [];
        $sets = [$backupSet->id, ...array_map(fn (SetOutline $set): int => $set->id, $chain)];
        $copies = Copy::query()->whereIn('set_id', $sets)->orderBy('id')->pluck('id')->all();
        ReadBackCopies::begin($copies, $backupSet->workload_id, $user);

        return redirect("/sets/{$backupSet->id}")->with('told', 'It is being read back.');
    }
}
