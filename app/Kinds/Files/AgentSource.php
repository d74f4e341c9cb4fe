<?php

declare(strict_types=1);

namespace App\Kinds\Files;

use App\Agents\Agent;
use App\Kinds\MakingOrder;
use App\Kinds\Source;
use App\Kinds\SourcePlace;
use App\Models\BackupSet;
use App\Trees\Making\FolderProtection;
use App\Trees\Making\LevelsOfTree;

/** A machine, or some folders of it, that an agent there sends. */
final readonly class AgentSource implements Source
{
    use LevelsOfTree;

    public function __construct(private Agent $agent)
    {
    }

    public function usualTimes(): array
    {
        return ['30 2 * * 0=full', '30 2 * * 1-6=incr'];
    }

    public function isKnown(): bool
    {
        return true;
    }

    /** A machine that is silent is not gone: sets of it that are due are missed, and that is told. */
    public function isGone(): bool
    {
        return false;
    }

    public function place(): SourcePlace
    {
        $more = ", by its agent, which {$this->agent->state()}";

        return new SourcePlace('It is the machine', (string) $this->agent->host, $more, '/agents');
    }

    public function make(MakingOrder $order): BackupSet
    {
        return (new FolderProtection($this->agent->workload, $order, new AgentOriginal($this->agent)))->make();
    }
}
