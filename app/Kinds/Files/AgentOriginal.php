<?php

declare(strict_types=1);

namespace App\Kinds\Files;

use App\Agents\Agent;
use App\Agents\AgentOrder;
use Kaiseki\Core\Agent\ListedFolder;
use Kaiseki\Core\Agent\Listing;
use Kaiseki\Core\Archive\ByteStream;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Protect\Clock;
use Kaiseki\Core\Protect\SystemClock;

/** The files of a machine on which an agent runs: it tells what is there, and sends the contents that are wanted. */
final class AgentOriginal implements Original
{
    /** @var list<string> */
    private array $remarks = [];

    private ?AgentOrder $order = null;

    public function __construct(private readonly Agent $agent)
    {
    }

    public function clock(): Clock
    {
        return new SystemClock;
    }

    public function besideIt(): null
    {
        return null;
    }

    public function open(): Look
    {
        $this->order = AgentOrder::give($this->agent, AgentOrder::LIST);
        $list = Listing::read($this->order->stream());
        $this->remarks = $this->order->remarks();

        return new ListedFolder($this->agent->workload->name, $list, $this->send(...));
    }

    /** @param  list<int>  $numbers */
    private function send(array $numbers): ByteStream
    {
        $this->order = AgentOrder::give($this->agent, AgentOrder::CONTENTS, $numbers);

        return $this->order->stream();
    }

    public function remarks(): array
    {
        return array_values(array_unique([...$this->remarks, ...$this->order?->remarks() ?? []]));
    }

    public function close(): void
    {
        $this->order?->withdraw();
    }
}
