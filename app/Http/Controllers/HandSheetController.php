<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Kinds\Kinds;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** The order of a request as commands for a person. */
final class HandSheetController
{
    public function __invoke(Request $request, RecoveryRequest $recoveryRequest): StreamedResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $headers = [
            'Content-Type' => 'application/x-sh',
            'Content-Disposition' => "attachment; filename=\"hand-sheet-request-{$recoveryRequest->id}.sh\"",
        ];
        $script = Kinds::ofRequest($recoveryRequest)->sheet($recoveryRequest)->handSheet();
        abort_if($script === null, 409, 'Settle the moment and pick something first.');
        TrailEntry::add('Took the hand sheet of the order.', $recoveryRequest, $user, sort: TrailSort::Content);

        return new StreamedResponse(
            function () use ($script): void {
                foreach ($script as $piece) {
                    echo $piece;
                }
            },
            200,
            $headers,
        );
    }
}
