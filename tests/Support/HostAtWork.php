<?php

declare(strict_types=1);

namespace Tests\Support;

use Kaiseki\Core\Host\HostFolder;
use Symfony\Component\Process\Process;

/** The process of a host for one folder, as bin/walls/host begins it, but without its walls. */
final class HostAtWork
{
    private readonly Process $process;

    public readonly string $socket;

    public function __construct(public readonly string $root, int $peer = 0, int $keep = 0)
    {
        $this->socket = sys_get_temp_dir().'/kaiseki-host-'.bin2hex(random_bytes(6)).'.sock';
        $script = dirname(__DIR__, 2).'/bin/host-process';
        $this->process = new Process([PHP_BINARY, $script, $this->socket, (string) $peer, (string) $keep, $root]);
        $this->process->setTimeout(null);
        $this->process->start();
        while (! file_exists($this->socket) && $this->process->isRunning()) {
            usleep(10_000);
        }
    }

    public function open(string $below = '', bool $make = false): HostFolder
    {
        return HostFolder::open($this->socket, rtrim("$this->root/$below", '/'), $make);
    }

    public function isRunning(): bool
    {
        return $this->process->isRunning();
    }

    public function pid(): int
    {
        return (int) $this->process->getPid();
    }

    public function end(int $signal = SIGTERM): string
    {
        $this->process->stop(5, $signal);
        if (file_exists($this->socket)) {
            unlink($this->socket);
        }

        return $this->process->getErrorOutput();
    }
}
