<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use App\Kinds\Files\Order\FilesSaid;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use Illuminate\Http\RedirectResponse;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;

/** Picks one version of a path for a request: the point at which it was so, and the path alone. */
final class TakeVersionController
{
    public function __invoke(TakeVersionRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $set = BackupSet::query()->where('workload_id', $recoveryRequest->workload_id)->findOrFail($request->integer('set'));
        try {
            $path = EntryPath::of(rawurldecode($request->string('path')->value()));
        } catch (UnsafePath $unsafe) {
            return back()->withErrors(['path' => $unsafe->getMessage()]);
        }
        FilesSaid::of($recoveryRequest)
            ->select([$path])
            ->with(acrossPoints: false)
            ->keepOn($recoveryRequest)
            ->update(['set_id' => $set->id]);

        return redirect("/requests/{$recoveryRequest->id}?show=where")->with('told', 'The order line has this version.');
    }
}
