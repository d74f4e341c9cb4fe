<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;

/** A run about the machine that another brought back: of the same workload, point and request. */
final class NextRun
{
    /**
     * @param  array<string, mixed>  $plan
     * @param  string  $sentence  what was ordered
     */
    public static function ordered(Run $of, array $plan, string $sentence, ?User $by): Run
    {
        $run = Run::query()->create([
            'workload_id' => $of->workload_id,
            'request_id' => $of->request_id,
            'user_id' => $by?->id,
            'set_id' => $of->set_id,
            'state' => 'queued',
            'plan' => $plan,
            'is_whole' => false,
        ]);
        TrailEntry::add("Run {$run->id} was ordered: $sentence", $of->request, $by, $run);

        return $run;
    }
}
