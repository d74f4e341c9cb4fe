<?php

declare(strict_types=1);

namespace App\Runs;

use App\Instance;
use App\Models\Run;

/** What is kept of each run under the home. */
final class RunFiles
{
    public static function folder(Run $run): string
    {
        return Instance::folder("runs/{$run->id}");
    }

    public static function journal(Run $run): string
    {
        return self::folder($run).'/journal';
    }

    public static function proof(Run $run): string
    {
        return self::folder($run).'/proof.json';
    }

    public static function entries(Run $run): string
    {
        return self::folder($run).'/entries.jsonl';
    }

    /** One that is too long to be kept with the run; a JSON document a line. */
    public static function longList(Run $run, string $name): string
    {
        return self::folder($run)."/$name.jsonl";
    }

    public static function manifest(Run $run): string
    {
        return self::folder($run).'/manifest.b2sum';
    }
}
