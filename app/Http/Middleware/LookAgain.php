<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use App\Jobs\ReckonStanding;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\Workload;
use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** Whoever changed something has the workload that it concerns looked at again, so that the pages soon show it as it is. */
final class LookAgain
{
    public function handle(Request $request, Closure $next): Response
    {
        $response = $next($request);
        if (! $request->isMethodSafe() && $response->getStatusCode() < 400) {
            ReckonStanding::begin(...self::concerned($request));
        }

        return $response;
    }

    /** @return list<int> ids of workloads */
    private static function concerned(Request $request): array
    {
        $ids = [];
        foreach ($request->route()?->parameters() ?? [] as $one) {
            $ids[] = match (true) {
                $one instanceof Workload => $one->exists ? $one->id : null,
                $one instanceof BackupSet, $one instanceof RecoveryRequest, $one instanceof Run => $one->workload_id,
                default => null,
            };
        }

        return array_values(array_unique(array_filter($ids)));
    }
}
