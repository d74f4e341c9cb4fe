<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Trees\Run\Download;
use App\Trees\Run\RestorePlan;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;
use Throwable;

/** The archive of a download order, made while it is sent; each order is sent once. */
final class DownloadController
{
    public function __invoke(Request $request, Run $run): StreamedResponse
    {
        abort_if($run->taken_as === null, 404);
        $plan = RestorePlan::fromArray($run->plan);
        $user = $request->user();
        // Of two clicks at once, one gets it.
        abort_if(
            Run::query()
                ->whereKey($run->id)
                ->where('state', 'queued')
                ->update(['state' => 'running', 'user_id' => $user instanceof User ? $user->id : null]) !== 1,
            409,
            'This download was sent already. Order it again to have it again.',
        );
        TrailEntry::add("The download of run {$run->id} was begun.", $run->request, $user, $run, TrailSort::Content);
        $name = "request-{$run->request_id}-run-{$run->id}".($plan->download === 'zip' ? '.zip' : '.tar.gz');

        return new StreamedResponse(
            function () use ($run): void {
                set_time_limit(0);
                ignore_user_abort(true);
                try {
                    foreach (Download::of($run->refresh()) as $piece) {
                        echo $piece;
                        flush();
                        if (connection_aborted() !== 0) {
                            return;
                        }
                    }
                } catch (Throwable $broken) {
                    // What was sent has no end: gzip and unzip both say so.
                    report($broken);
                }
            },
            200,
            [
                'Content-Type' => $plan->download === 'zip' ? 'application/zip' : 'application/gzip',
                'Content-Disposition' => "attachment; filename=\"$name\"",
                'X-Accel-Buffering' => 'no',
            ],
        );
    }
}
