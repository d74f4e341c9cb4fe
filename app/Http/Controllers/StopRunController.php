<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

final class StopRunController
{
    public function __invoke(Request $request, Run $run): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        if (! $run->isOver()) {
            $run->update(['stop_asked' => true]);
            $isLater = fn (Builder $query) => $query->where('state', 'queued')->where('starts_at', '>', now());
            $isWaiting = fn (Builder $query) => $query->where('state', 'waiting')->orWhere($isLater);
            $stopped = [
                'state' => 'stopped', 'ended_at' => now(),
                'failure' => 'It was stopped while it waited. Nothing was put in place.',
            ];
            if (Run::query()->whereKey($run->id)->where($isWaiting)->update($stopped) === 1) {
                $run->request?->update(['state' => 'open']);
            }
            TrailEntry::add("Run {$run->id} was asked to stop.", $run->request, $user, $run);
        }

        return redirect($run->request_id === null ? '/proofs' : "/requests/{$run->request_id}?show=proof");
    }
}
