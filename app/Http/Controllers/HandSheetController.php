<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Kinds\Databases\Order\DatabaseHandSheet;
use App\Kinds\Databases\Order\DatabaseSheet;
use App\Kinds\Files\Order\Worksheet;
use App\Models\RecoveryRequest;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** The order of a request as commands for a person. */
final class HandSheetController
{
    public function __invoke(RecoveryRequest $recoveryRequest): StreamedResponse
    {
        $headers = ['Content-Type' => 'application/x-sh', 'Content-Disposition' => "attachment; filename=\"hand-sheet-request-{$recoveryRequest->id}.sh\""];
        if ($recoveryRequest->workload?->kind === 'database') {
            $database = new DatabaseSheet($recoveryRequest);
            abort_if($database->reaches === [], 409, 'Settle the moment first.');

            return new StreamedResponse(function () use ($database): void {
                echo (new DatabaseHandSheet($database->points, $database->reaches, $database->order->skip ?? [], ''))->script();
            }, 200, $headers);
        }
        $sheet = (new Worksheet($recoveryRequest))->handSheet();
        abort_if($sheet === null, 409, 'Settle the moment and pick something first.');

        return new StreamedResponse(function () use ($sheet): void {
            foreach ($sheet->script() as $piece) {
                echo $piece;
            }
        }, 200, $headers);
    }
}
