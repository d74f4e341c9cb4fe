<?php

declare(strict_types=1);

namespace App\View;

use App\Sets\SetOutline;

/** A history of a workload: sets that rest on nothing before the first of them. */
final class HistoryLine
{
    public function __construct(public string $name, public SetOutline $first, public SetOutline $last, public int $sets = 0)
    {
    }
}
