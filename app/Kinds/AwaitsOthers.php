<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Run;

/** A carrier whose runs may wait for what other people must do first, and go on by themselves when that is done. */
interface AwaitsOthers
{
    /**
     * Whether something has come that a run waits for.
     *
     * @param  string  $what  one of its waits_for
     */
    public function hasCome(Run $run, string $what): bool;
}
