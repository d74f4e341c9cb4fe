<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use App\Kinds\Databases\Server\DatabaseServer;
use App\Models\Run;
use App\Models\Workload;
use Kaiseki\Core\Database\LogPosition;

/** Places in the logs of a server at which a run of ours put another state in place, which the logs do not show. */
final class HistoryBreaks
{
    /** @return list<array{LogPosition, string}> */
    public static function of(Workload $workload): array
    {
        $breaks = [];
        $server = DatabaseServer::of($workload)?->name;
        foreach (
            Run::query()
                ->where('plan->kind', 'database')
                ->where('plan->server', $server)
                ->whereNotNull('outcome')
                ->get(['id', 'outcome']) as $run
        ) {
            foreach (
                ['break_at' => 'Run %d put an earlier state in place', 'put_back_break_at' => 'Run %d was put back'] as $field => $words
            ) {
                $at = $run->outcome[$field] ?? null;
                if (is_string($at)) {
                    $breaks[] = [LogPosition::parse($at), sprintf($words, $run->id)];
                }
            }
        }

        return $breaks;
    }

    /** Whether something was put in place since the newest dump, so that the next one begins a new history. */
    public static function since(Workload $workload): bool
    {
        $newest = $workload->sets()->where('level', 'full')->orderByDesc('instant')->first();
        $position = $newest === null ? null : DumpFacts::ofSet($newest)->position();
        foreach (self::of($workload) as [$at]) {
            if ($position === null || $at->isAfter($position)) {
                return true;
            }
        }

        return false;
    }
}
