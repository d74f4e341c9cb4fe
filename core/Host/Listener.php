<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use Kaiseki\Core\Files\Internal\Libc;
use Socket;
use Throwable;

/** Listens at a socket of this machine, and has each wire answered by a process of its own. */
final class Listener
{
    /** Wires at a time. */
    private const MOST = 100;

    private const PR_SET_PDEATHSIG = 1;

    private int $wires = 0;

    public function __construct(private readonly string $path)
    {
    }

    /**
     * @param  callable(): mixed  $ready  called once, when it listens
     * @param  callable(Wire): void  $answer  in the process of a wire; ends when that does
     */
    public function run(callable $ready, callable $answer): never
    {
        pcntl_async_signals(true);
        foreach ([SIGTERM, SIGINT] as $signal) {
            pcntl_signal($signal, $this->stop(...), false);
        }
        pcntl_signal(SIGCHLD, $this->reap(...), false);
        Libc::get();
        $socket = $this->listen();
        $ready();
        while (true) {
            $wire = $this->wires < self::MOST ? @socket_accept($socket) : false;
            if ($wire !== false) {
                $this->begin($wire, $socket, $answer);
            } elseif ($this->wires >= self::MOST) {
                usleep(50_000);
            }
        }
    }

    private function listen(): Socket
    {
        $new = "{$this->path}.new";
        @unlink($new);
        $socket = socket_create(AF_UNIX, SOCK_STREAM, 0);
        $before = umask(0111); // who may connect is settled by its folder, and who is answered by the kernel's word
        if ($socket === false || ! socket_bind($socket, $new) || ! socket_listen($socket, self::MOST)) {
            throw HostIsSilent::at($this->path, socket_last_error());
        }
        umask($before);
        socket_set_option($socket, SOL_SOCKET, SO_PASSCRED, 1);
        rename($new, $this->path); // once it is there, somebody listens

        return $socket;
    }

    /** @param  callable(Wire): void  $answer */
    private function begin(Socket $wire, Socket $socket, callable $answer): void
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
        try {
            $answer(new Wire($wire));
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
        @unlink($this->path);
        exit(0);
    }
}
