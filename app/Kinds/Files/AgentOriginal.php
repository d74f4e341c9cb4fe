<?php

declare(strict_types=1);

namespace App\Kinds\Files;

use App\Agents\Agent;
use App\Agents\AgentOrder;
use App\Hosts\HostCommand;
use App\Trees\Making\Original;
use Kaiseki\Core\Agent\ListedFolder;
use Kaiseki\Core\Agent\Listing;
use Kaiseki\Core\Archive\ByteStream;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Protect\Clock;
use Kaiseki\Core\Protect\SystemClock;

/** The files of a machine on which an agent runs: it tells what is there, and sends the contents that are wanted. */
final class AgentOriginal implements Original
{
    /** Where the agent has programs that bring its machine to rest and let it go on. */
    private const HOOKS = '/etc/kaiseki-agent/';

    private const AT_REST = 'at-rest';

    /** @var list<string> */
    private array $remarks = [];

    /** @var list<HostCommand> */
    private array $commands = [];

    /** Whether something waits there to be let go on. */
    private bool $isAtRest = false;

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

    /** Whether it answers is known by its first answer. */
    public function reach(): void
    {
    }

    public function open(): Look
    {
        $this->order = AgentOrder::give($this->agent, AgentOrder::LIST);
        $list = Listing::read($this->order->stream());
        $this->hear($this->order->remarks());
        $this->order->withdraw();
        $this->order = null;

        return new ListedFolder($this->agent->workload->name, $list, $this->send(...));
    }

    /** @param  list<int>  $numbers */
    private function send(array $numbers): ByteStream
    {
        $this->order = AgentOrder::give($this->agent, AgentOrder::CONTENTS, $numbers);

        return $this->order->stream();
    }

    /** @param  list<string>  $lines  remarks, and how its programs ended */
    private function hear(array $lines): void
    {
        foreach ($lines as $line) {
            if (preg_match('/^hook (before|after) (\d{1,3}) ?(.*)$/D', $line, $m) === 1) {
                $this->commands[] = HostCommand::carriedOut($m[1], [self::HOOKS.$m[1]], fn (): array => [(int) $m[2], trim($m[3])]);
            } elseif ($line === self::AT_REST) {
                $this->isAtRest = true;
            } else {
                $this->remarks[] = $line;
            }
        }
    }

    public function remarks(): array
    {
        $this->hear($this->order?->remarks() ?? []);
        if ($this->isAtRest) {
            $this->isAtRest = false;
            $this->order = AgentOrder::give($this->agent, AgentOrder::END);
            $this->hear($this->order->remarks());
        }

        return array_values(array_unique($this->remarks));
    }

    public function commands(): array
    {
        return $this->commands;
    }

    /** What is at rest there still is let go on, whether or not somebody can wait for it. */
    public function close(): void
    {
        $this->isAtRest ? AgentOrder::give($this->agent, AgentOrder::END) : $this->order?->withdraw();
    }
}
