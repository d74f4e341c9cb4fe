<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Order\DatabaseOrder;
use App\Models\Run;
use App\Models\RunStep;
use App\Runs\ProofWriter;

/** The evidence of a database restore: what was read, where it stopped, rows and checksum of every table, every check. */
final class DatabaseProof
{
    /** @param  array<string, mixed>  $outcome */
    public static function write(Run $run, DatabaseOrder $order, array $outcome): void
    {
        ProofWriter::sign($run, [
            'kind' => 'kaiseki proof of a restore of a database', 'version' => 1,
            'run' => $run->id, 'request' => $run->request_id, 'order' => $order->sentence, 'workload' => $run->workload->name, 'point' => $run->set_name,
            'asked_by' => $run->request?->requester->name, 'run_by' => $run->user->name ?? 'command line', 'way' => $order->way, 'server' => $order->server, 'schemas' => $order->schemas, 'tables' => $order->tables,
            'stop' => $outcome['reached'], 'left_out_transactions' => $order->skip, 'transaction' => $order->gtid,
            'started_at' => $run->started_at?->format('Y-m-d\TH:i:s.v\Z'), 'ended_at' => $run->ended_at?->format('Y-m-d\TH:i:s.v\Z'),
            'rows' => $outcome['rows_restored'], 'read' => $outcome['read'], 'checks' => $outcome['checks'], 'right' => $outcome['right'], 'remarks' => $outcome['remarks'], 'looked_at_before' => $outcome['before'] ?? [],
            'contents' => $outcome['contents'] ?? [], 'objects' => $outcome['objects'] ?? [], 'row_changes' => $outcome['by_table'] ?? [], 'conflicts' => $outcome['conflicts'] ?? [],
            'question' => $order->query, 'answers' => $outcome['query'] ?? [],
            'commands' => array_map(fn (array $command): array => ['seconds' => (string) $command['seconds']] + $command, $outcome['commands']),
            'steps' => $run->steps()->get()->map(fn (RunStep $step): array => ['step' => $step->name, 'seconds' => sprintf('%.3f', $step->started_at === null || $step->ended_at === null ? 0 : ($step->ended_at->getTimestampMs() - $step->started_at->getTimestampMs()) / 1000), 'detail' => (string) $step->detail])->values()->all(),
        ]);
    }
}
