<?php

declare(strict_types=1);

namespace Tests\Support;

use Kaiseki\StandIns\GuestSystem;
use Symfony\Component\Process\Process;

/** What a machine that really starts is made of. */
final class Guest
{
    /** As the demo of the tests has it, or fetched. */
    public static function system(): GuestSystem
    {
        $home = (string) getenv('KAISEKI_BROWSER_HOME');
        $folder = is_file("$home/guest/done") ? "$home/guest" : getenv('KAISEKI_HOME').'/guest';
        (new Process([dirname(__DIR__, 2).'/bin/guest-packages', $folder]))->setTimeout(null)->mustRun();

        return new GuestSystem($folder);
    }
}
