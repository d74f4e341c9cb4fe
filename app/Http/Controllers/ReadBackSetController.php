<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Estate\Points;
use App\Jobs\ReadBackCopies;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\User;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Kaiseki\Core\Chain\BackupSet as ChainSet;
use Kaiseki\Core\Chain\Chain;

/** Has the copies of a set, or of its whole chain, read back. */
final class ReadBackSetController
{
    public function __invoke(Request $request, BackupSet $backupSet): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $names = [$backupSet->name];
        if ($request->boolean('chain')) {
            $chain = (new Points($backupSet->workload))->graph->chainOf($backupSet->name);
            $names = $chain instanceof Chain ? array_map(fn (ChainSet $set): string => $set->id, $chain->sets) : $names;
        }
        $copies = Copy::query()->whereIn('set_id', $backupSet->workload->sets()->whereIn('name', $names)->select('id'))->orderBy('id')->pluck('id')->all();
        ReadBackCopies::begin($copies, $backupSet->workload_id, $user);

        return redirect("/sets/{$backupSet->id}")->with('told', 'It is being read back.');
    }
}
