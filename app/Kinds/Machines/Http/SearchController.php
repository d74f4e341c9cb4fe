<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Order\SearchLook;
use App\Looks\KeptLook;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Sets\ContentRead;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Has files inside a machine looked for in all its points. */
final class SearchController
{
    public function __invoke(Request $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $request->validate(['q' => ['required', 'string', 'max:200']], ['q.required' => 'Say what to look for.']);
        $user = $request->user();
        assert($user instanceof User);
        $asked = ['q' => trim($request->string('q')->value())];
        KeptLook::begin($recoveryRequest, SearchLook::class, $asked);
        $title = (new SearchLook($recoveryRequest, $asked))->title();
        ContentRead::told("Had looked for request {$recoveryRequest->id} for $title.", $recoveryRequest->workload, $user);

        return redirect("/requests/{$recoveryRequest->id}?".http_build_query(['show' => 'what'] + $asked));
    }
}
