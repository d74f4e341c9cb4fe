<?php

declare(strict_types=1);

namespace App\Runs;

use App\Databases\DatabaseRun;
use App\Models\Run;

/** Which class carries a run out: that of its kind of workload. */
final class Carriers
{
    public static function of(Run $run): RunCarrier|DatabaseRun
    {
        return $run->isOfDatabase() ? new DatabaseRun : new RunCarrier;
    }
}
