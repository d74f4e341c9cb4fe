<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Order\MachineOrder;
use App\Models\Run;
use App\Runs\Evidence;
use Kaiseki\Core\Machine\Blocks;

/** The signed account of a run that wrote images. */
final readonly class MachineProof
{
    public function __construct(private Run $run, private MachineOrder $order)
    {
    }

    /** @param  array<string, mixed>  $outcome */
    public function write(array $outcome): void
    {
        $run = $this->run;
        Evidence::sign($run, [
            'kind' => 'kaiseki proof of images',
            'version' => 1,
            'run' => $run->id,
            'request' => $run->request_id,
            'order' => $this->order->sentence,
            'workload' => $run->workload->name,
            'point' => $run->set_name,
            'captured_at' => $run->point_at->format('Y-m-d\TH:i:s.u\Z'),
            'asked_by' => $run->request?->requester->name,
            'run_by' => $run->user->name ?? 'command line',
            'target' => mb_scrub($this->order->folder),
            'host' => $this->order->host === '' ? null : $this->order->host,
            'format' => $this->order->format->value,
            'started_at' => $run->started_at?->format('Y-m-d\TH:i:s.v\Z'),
            'ended_at' => $run->ended_at?->format('Y-m-d\TH:i:s.v\Z'),
            'block_bytes' => Blocks::BYTES,
            'disks' => $outcome['disks'],
            'checks' => $outcome['checks'],
            'right' => $outcome['right'],
            'approval' => Evidence::approval($run),
            'steps' => Evidence::steps($run),
        ]);
    }
}
