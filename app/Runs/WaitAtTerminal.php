<?php

declare(strict_types=1);

namespace App\Runs;

use App\Kinds\Carrier;
use App\Kinds\Talk;
use App\Models\Run;

/** Somebody at a terminal waits for a run that waits for a cartridge or a store. */
final class WaitAtTerminal
{
    /** Returns when the run is over, whoever carried it on. */
    public static function until(Run $run, Carrier $carrier, Talk $talk): void
    {
        while (! $run->isOver()) {
            if ($run->state === 'waiting') {
                $talk->say(
                    "Run {$run->id} waits for ".
                        implode(' and ', $run->waits_for ?? []).
                        '. Record an arrival with: bin/kaiseki cartridge STORE LABEL --arrived',
                );
            }
            for ($state = $run->state; $run->state === $state && $state !== 'queued'; $run->refresh()) {
                usleep(300_000);
            }
            if ($run->state === 'queued') {
                $carrier->carryOut($run);
                $run->refresh();
            }
        }
    }
}
