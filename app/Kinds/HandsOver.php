<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Run;

/** A carrier whose runs may write something that is taken by the browser, by an operator or by who asked for it. */
interface HandsOver
{
    /** @return array<string, string> address => what it is, in words; none for a run that wrote nothing of that sort */
    public function handsOver(Run $run): array;
}
