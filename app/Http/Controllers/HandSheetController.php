<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Kinds\Kinds;
use App\Models\RecoveryRequest;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** The order of a request as commands for a person. */
final class HandSheetController
{
    public function __invoke(RecoveryRequest $recoveryRequest): StreamedResponse
    {
        $headers = [
            'Content-Type' => 'application/x-sh',
            'Content-Disposition' => "attachment; filename=\"hand-sheet-request-{$recoveryRequest->id}.sh\"",
        ];
        $script = Kinds::ofRequest($recoveryRequest)->sheet($recoveryRequest)->handSheet();
        abort_if($script === null, 409, 'Settle the moment and pick something first.');

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
