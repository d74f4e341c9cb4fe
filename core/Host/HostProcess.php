<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use Kaiseki\Core\Files\Internal\Libc;
use Socket;
use Throwable;

/**
 * A process of a host, for one folder: listens at a socket, and answers each wire in a process of its own. It knows core and nothing else,
 * reads no archives, and has been confined by who started it (bin/host); what is left to do here is a filter of system calls.
 */
final class HostProcess
{
    /** Wires at a time. */
    private const MOST = 100;

    private const PR_SET_PDEATHSIG = 1;

    private int $wires = 0;

    /** @param  int  $peer  the account that is answered, beside root */
    public function __construct(private readonly string $socket, private readonly int $peer, private readonly GivenFolder $given)
    {
    }

    public function run(): never
    {
        pcntl_async_signals(true);
        foreach ([SIGTERM, SIGINT] as $signal) {
            pcntl_signal($signal, $this->stop(...), false);
        }
        pcntl_signal(SIGIO, SIG_IGN); // of a lease that somebody wants to break
        pcntl_signal(SIGCHLD, $this->reap(...), false);
        Libc::get();
        $socket = $this->listen();
        SystemCalls::refuse(SystemCalls::NEVER);
        while (true) {
            $wire = $this->wires < self::MOST ? @socket_accept($socket) : false;
            if ($wire !== false) {
                $this->begin($wire, $socket);
            } elseif ($this->wires >= self::MOST) {
                usleep(50_000);
            }
        }
    }

    private function listen(): Socket
    {
        @unlink($this->socket);
        $socket = socket_create(AF_UNIX, SOCK_STREAM, 0);
        $before = umask(0111); // who may connect is settled by its folder, and who is answered by the kernel's word
        if ($socket === false || ! socket_bind($socket, $this->socket) || ! socket_listen($socket, self::MOST)) {
            throw HostIsSilent::at($this->socket, socket_last_error());
        }
        umask($before);
        socket_set_option($socket, SOL_SOCKET, SO_PASSCRED, 1);

        return $socket;
    }

    private function begin(Socket $wire, Socket $socket): void
    {
        $pid = pcntl_fork();
        if ($pid !== 0) {
            $this->wires += $pid > 0 ? 1 : 0;
            socket_close($wire);

            return;
        }
        Libc::get()->c->prctl(self::PR_SET_PDEATHSIG, SIGKILL);
        pcntl_signal(SIGCHLD, SIG_DFL);
        pcntl_signal(SIGTERM, SIG_DFL);
        socket_close($socket);
        SystemCalls::refuse(SystemCalls::OF_ONE_WIRE);
        try {
            (new Answering(new Wire($wire), $this->given))->run($this->peer);
        } catch (HostIsSilent) {
            // it has gone, or is none of ours
        } catch (Throwable $failure) {
            fwrite(STDERR, $failure::class.': '.$failure->getMessage()."\n");
        }
        exit(0);
    }

    private function reap(): void
    {
        while (pcntl_waitpid(-1, $status, WNOHANG) > 0) {
            $this->wires--;
        }
    }

    private function stop(): never
    {
        @unlink($this->socket);
        exit(0);
    }
}
