<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Models\Run;
use App\Runs\Evidence;
use Kaiseki\Core\Machine\Blocks;

/** The signed account of a run that wrote images. */
final readonly class MachineProof
{
    public function __construct(private Run $run, private string $sentence)
    {
    }

    /**
     * @param  string  $kind  of proof: "images"
     * @param  array<string, mixed>  $where  to what it was brought
     * @param  array<string, mixed>  $outcome
     */
    public function write(string $kind, array $where, array $outcome): void
    {
        $run = $this->run;
        Evidence::sign($run, [
            'kind' => "kaiseki proof of $kind",
            'version' => 1,
            'run' => $run->id,
            'request' => $run->request_id,
            'order' => $this->sentence,
            'workload' => $run->workload->name,
            'point' => $run->set_name,
            'captured_at' => $run->point_at->format('Y-m-d\TH:i:s.u\Z'),
            'asked_by' => $run->request?->requester->name,
            'run_by' => $run->user->name ?? 'command line',
            ...$where,
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
