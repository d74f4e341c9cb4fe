<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Order\DatabaseOrder;
use App\Models\Run;
use App\Runs\Evidence;

/** The evidence of a database restore: what was read, where it stopped, rows and checksum of every table, every check. */
final class DatabaseProof
{
    /** @param  array<string, mixed>  $outcome */
    public static function write(Run $run, DatabaseOrder $order, array $outcome): void
    {
        Evidence::sign($run, [
            'kind' => 'kaiseki proof of a restore of a database',
            'version' => 1,
            'run' => $run->id,
            'request' => $run->request_id,
            'order' => $order->sentence,
            'workload' => $run->workload->name,
            'point' => $run->set_name,
            'asked_by' => $run->request?->requester->name,
            'run_by' => $run->user->name ?? 'command line',
            'way' => $order->way,
            'server' => $order->server,
            'schemas' => $order->schemas,
            'tables' => $order->tables,
            'stop' => $outcome['reached'],
            'left_out_transactions' => $order->skip,
            'transaction' => $order->gtid,
            'started_at' => $run->started_at?->format('Y-m-d\TH:i:s.v\Z'),
            'ended_at' => $run->ended_at?->format('Y-m-d\TH:i:s.v\Z'),
            'rows' => $outcome['rows_restored'],
            'read' => $outcome['read'],
            'checks' => $outcome['checks'],
            'right' => $outcome['right'],
            'remarks' => $outcome['remarks'],
            'looked_at_before' => $outcome['before'] ?? [],
            'contents' => $outcome['contents'] ?? [],
            'objects' => $outcome['objects'] ?? [],
            'row_changes' => $outcome['by_table'] ?? [],
            'conflicts' => $outcome['conflicts'] ?? [],
            'question' => $order->query,
            'answers' => $outcome['query'] ?? [],
            'commands' => Evidence::commands($outcome['commands']),
            'steps' => Evidence::steps($run),
            'approval' => Evidence::approval($run),
        ]);
    }
}
