<?php

declare(strict_types=1);

namespace App\Runs;

use App\Instance;
use App\Models\Run;

/** What is kept of each run under the home. */
final class RunFiles
{
    public static function journal(Run $run): string
    {
        return Instance::folder("runs/{$run->id}").'/journal';
    }

    public static function proof(Run $run): string
    {
        return Instance::folder("runs/{$run->id}").'/proof.json';
    }

    public static function manifest(Run $run): string
    {
        return Instance::folder("runs/{$run->id}").'/manifest.b2sum';
    }
}
