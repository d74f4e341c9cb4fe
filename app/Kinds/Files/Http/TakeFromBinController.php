<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use App\Jobs\TakeFromBin;
use App\Models\RecoveryRequest;
use App\Models\User;
use Illuminate\Http\RedirectResponse;
use Illuminate\Support\Facades\Cache;

final class TakeFromBinController
{
    public function __invoke(BinRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        Cache::put(TakeFromBin::key($recoveryRequest->id), '', 600);
        TakeFromBin::dispatch($recoveryRequest->id, $request->string('file')->value(), $user->id);

        return redirect("/requests/{$recoveryRequest->id}?show=what&by=bin");
    }
}
