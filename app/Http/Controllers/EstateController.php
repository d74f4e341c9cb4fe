<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Estate\Points;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Instant;

final class EstateController
{
    public function __invoke(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);
        $lines = Workload::seenBy($user)->orderBy('name')->get()->map(function (Workload $workload): array {
            $points = new Points($workload);
            $newest = $points->find(Instant::of(now()), new Demands)->set;
            $latest = $points->modelOf($newest);

            return [
                'workload' => $workload, 'points' => $points, 'newest' => $latest,
                'open' => RecoveryRequest::query()->where('workload_id', $workload->id)->where('state', '<>', 'closed')->count(),
                'partial' => count($points->lost->counts()),
                'proven' => Run::query()->where('workload_id', $workload->id)->where('state', 'done')->where('outcome->right', true)->max('ended_at'),
            ];
        });

        return view('estate', ['lines' => $lines]);
    }
}
