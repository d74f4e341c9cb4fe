<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Runs\ProofPage;
use App\Runs\RunFiles;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** The evidence of a run: signed, as a page, as PDF, or the manifest that b2sum reads. */
final class DownloadProofController
{
    public function __invoke(Request $request, Run $run, string $which): Response
    {
        abort_unless($run->state === 'done' && is_file(RunFiles::proof($run)), 404);
        $user = $request->user();
        assert($user instanceof User);
        TrailEntry::add("Took of run {$run->id}: ".strtr($which, '_', ' ').'.', $run->request, $user, $run, TrailSort::Content);

        return match ($which) {
            'manifest' => response()->download(RunFiles::manifest($run), "run-{$run->id}-manifest.b2sum", ['Content-Type' => 'text/plain']),
            // What a browser is to keep: it has a style of its own, which no page of ours may have.
            'page' => response((string) ProofPage::html($run), 200, [
                'Content-Type' => 'text/html; charset=utf-8',
                'Content-Disposition' => "attachment; filename=\"run-{$run->id}-proof.html\"",
            ]),
            'pdf' => response((string) ProofPage::pdf($run), 200, [
                'Content-Type' => 'application/pdf',
                'Content-Disposition' => "attachment; filename=\"run-{$run->id}-proof.pdf\"",
            ]),
            'left_out', 'differences', 'from_other_points' => is_file(RunFiles::longList($run, $which))
                ? response()->download(RunFiles::longList($run, $which), "run-{$run->id}-$which.jsonl", ['Content-Type' => 'text/plain'])
                : abort(404),
            default => response()->download(RunFiles::proof($run), "run-{$run->id}-proof.json", ['Content-Type' => 'application/json']),
        };
    }
}
