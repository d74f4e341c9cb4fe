<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Machines;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use App\Sets\SetOutline;

/** A run that a medium works for, as it is ordered: of the kind of machines, whatever kind its workload is of. */
final class OrderedRun
{
    /**
     * @param  array<string, mixed>  $plan
     * @param  bool  $isWhole  whether all of the machine comes
     */
    public static function begin(
        Workload $workload,
        SetOutline $point,
        array $plan,
        bool $isWhole,
        ?RecoveryRequest $request = null,
        ?User $by = null,
    ): Run {
        return Run::query()->create([
            'workload_id' => $workload->id,
            'kind' => Machines::NAME,
            'request_id' => $request?->id,
            'user_id' => $by?->id,
            'set_id' => $point->id,
            'state' => 'queued',
            'plan' => $plan,
            'is_whole' => $isWhole,
        ]);
    }
}
