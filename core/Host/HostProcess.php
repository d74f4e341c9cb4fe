<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

/**
 * The process of a host for one folder: answers each wire in a process of its own. It knows core and nothing else, reads no
 * archives, and has been confined by who started it (bin/walls/host); what is left to do here is a filter of system calls.
 */
final readonly class HostProcess
{
    /** @param  int  $peer  the account that is answered, beside root */
    public function __construct(private string $socket, private int $peer, private GivenFolder $given)
    {
    }

    public function run(): never
    {
        pcntl_signal(SIGIO, SIG_IGN); // of a lease that somebody wants to break
        (new Listener($this->socket))->run(fn () => SystemCalls::refuse(SystemCalls::NEVER), $this->answer(...));
    }

    private function answer(Wire $wire): void
    {
        SystemCalls::refuse(SystemCalls::OF_ONE_WIRE);
        (new Answering($wire, $this->given))->run($this->peer);
    }
}
