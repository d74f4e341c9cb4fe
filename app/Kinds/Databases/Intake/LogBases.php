<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use App\Models\BackupSet;
use App\Models\Workload;
use Kaiseki\Core\Database\LogChain;
use Kaiseki\Core\Database\LogFacts;

/**
 * What each log rests on: the newest dump whose position lies in it, else the log before it. And when each dump was: not
 * before the last transaction that it holds, nor after the first that it does not.
 */
final class LogBases
{
    public static function settle(Workload $workload): void
    {
        $dumps = $workload->sets()->where('level', 'full')->orderBy('instant')->get();
        $before = null;
        foreach (
            $workload
                ->sets()
                ->where('level', 'log')
                ->get()
                ->sortBy(
                    fn (BackupSet $set): array => [
                        LogFacts::fromArray($set->facts ?? [])->series(),
                        LogFacts::fromArray($set->facts ?? [])->number(),
                    ],
                ) as $log
        ) {
            $facts = LogFacts::fromArray($log->facts ?? []);
            $inside = null;
            foreach ($dumps as $dump) {
                $of = DumpFacts::ofSet($dump);
                if ($of->logFile === $facts->file) {
                    self::place($dump, $of, $log);
                    $inside = $dump;
                }
            }
            $because =
                $before === null || $inside !== null ? null : LogChain::breakBetween(LogFacts::fromArray($before->facts ?? []), $facts);
            $base = $inside ?? ($because === null ? $before : null);
            $log->update([
                'base_id' => $base?->id,
                'base_recorded' => true,
                'base_name' => $base?->name,
                'base_unknown_because' => $base !== null ? null : $because ?? 'no dump that it goes on from is here',
            ]);
            $before = $log;
        }
    }

    /** Puts a dump at the moment at which its position was. */
    private static function place(BackupSet $dump, DumpFacts $facts, BackupSet $log): void
    {
        $transactions = \Illuminate\Support\Facades\DB::table('log_transactions')->where('set_id', $log->id);
        $last = (clone $transactions)->where('end', '<=', $facts->logPosition)->orderByDesc('position')->value('at');
        $next = (clone $transactions)->where('position', '>=', $facts->logPosition)->orderBy('position')->value('at');
        $at = $facts->at;
        if ($last !== null && $at < (int) $last) {
            $at = (int) $last;
        }
        if ($next !== null && $at > (int) $next) {
            $at = (int) $next;
        }
        if ($at !== $facts->at) {
            $dump->update([
                'captured_at' => gmdate('Y-m-d H:i:s', $at),
                'instant' => BackupSet::freeInstant($dump->history_id, $at * 1_000_000, $dump->id),
                'remarks' => array_values(
                    array_unique([
                        ...array_filter($dump->remarks ?? [], fn (string $remark): bool => ! str_starts_with($remark, 'When it was made')),
                        'When it was made is told by its position in the logs: its last line says otherwise.',
                    ]),
                ),
            ]);
        }
    }
}
