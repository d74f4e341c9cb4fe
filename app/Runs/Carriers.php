<?php

declare(strict_types=1);

namespace App\Runs;

use App\Kinds\Databases\Run\DatabaseRun;
use App\Models\Run;
use App\Trees\Run\RunCarrier;

/** Which class carries a run out: that of its kind of workload. */
final class Carriers
{
    public static function of(Run $run): RunCarrier|DatabaseRun
    {
        return $run->isOfDatabase() ? new DatabaseRun : new RunCarrier;
    }
}
