<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\Workload;
use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** The routes of a kind are there only for what is of that kind. */
final class OfKind
{
    public function handle(Request $request, Closure $next, string $kind): Response
    {
        $of = $this->kindOf($request);
        abort_if($of !== null && $of !== $kind, 404);

        return $next($request);
    }

    /** Of whatever stands in the address; null if nothing there is of any kind. */
    private function kindOf(Request $request): ?string
    {
        foreach ($request->route()?->parameters() ?? [] as $parameter) {
            $kind = match (true) {
                $parameter instanceof RecoveryRequest => Kinds::ofRequest($parameter)->name(),
                $parameter instanceof BackupSet => Kinds::of($parameter->workload)->name(),
                $parameter instanceof Run, $parameter instanceof Workload => Kinds::of($parameter)->name(),
                default => null,
            };
            if ($kind !== null) {
                return $kind;
            }
        }

        return null;
    }
}
