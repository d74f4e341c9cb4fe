<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Run;
use App\Runs\RunFiles;
use Symfony\Component\HttpFoundation\BinaryFileResponse;

/** The signed evidence, or the manifest that b2sum reads. */
final class DownloadProofController
{
    public function __invoke(Run $run, string $which): BinaryFileResponse
    {
        $file = $which === 'manifest' ? RunFiles::manifest($run) : RunFiles::proof($run);
        abort_unless($run->state === 'done' && is_file($file), 404);

        return response()->download($file, "run-{$run->id}-".basename($file), ['Content-Type' => $which === 'manifest' ? 'text/plain' : 'application/json']);
    }
}
