<?php

declare(strict_types=1);

namespace App\Runs;

use App\Kinds\Kinds;
use App\Models\Run;
use Dompdf\Dompdf;
use Dompdf\Options;
use Kaiseki\Core\Proof\SignedProof;

/** The evidence of a run for people: one page that needs nothing beside it, as HTML or as PDF. Both are made of the signed JSON. */
final class ProofPage
{
    public static function html(Run $run): ?string
    {
        $json = @file_get_contents(RunFiles::proof($run));
        if ($json === false) {
            return null;
        }
        $proof = SignedProof::parse($json);

        $kind = Kinds::of($run);

        return view($kind->view('proof'), [
            'evidence' => $kind->carrier()->evidence($proof->evidence),
            'sound' => $proof->isSound(),
            'key' => base64_encode($proof->publicKey),
            'signature' => base64_encode($proof->signature),
        ])->render();
    }

    public static function pdf(Run $run): ?string
    {
        $html = self::html($run);
        if ($html === null) {
            return null;
        }
        $pdf = new Dompdf(
            new Options([
                'isRemoteEnabled' => false,
                'isPhpEnabled' => false,
                'isJavascriptEnabled' => false,
                'defaultFont' => 'DejaVu Sans',
                'chroot' => RunFiles::folder($run),
                'tempDir' => sys_get_temp_dir(),
                'fontCache' => sys_get_temp_dir(),
            ]),
        );
        $pdf->loadHtml($html, 'UTF-8');
        $pdf->setPaper('A4');
        $pdf->render();

        return $pdf->output();
    }
}
