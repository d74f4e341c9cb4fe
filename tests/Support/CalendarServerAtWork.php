<?php

declare(strict_types=1);

namespace Tests\Support;

use Kaiseki\Core\Mail\Dav\DavAddress;
use Kaiseki\Core\Mail\Dav\DavHome;
use Kaiseki\StandIns\CalendarServer;
use RuntimeException;
use Symfony\Component\Process\Process;

/** The stand-in server of calendars and contacts (Radicale) as a process of its own. */
final class CalendarServerAtWork
{
    public const PASSWORD = 'secret of the desk';

    public readonly CalendarServer $server;

    private Process $process;

    /** @param  list<string>  $homes  whose collections there may be */
    public function __construct(array $homes)
    {
        $free = stream_socket_server('tcp://127.0.0.1:0');
        $port = (int) substr((string) strrchr((string) stream_socket_get_name($free, false), ':'), 1);
        fclose($free);
        $this->server = CalendarServer::in('/tmp/kaiseki-calendar-'.bin2hex(random_bytes(4)), $port, self::PASSWORD);
        array_walk($homes, fn (string $home) => $this->server->home($home));
        $this->begin();
    }

    public function begin(): void
    {
        $this->process = new Process($this->server->command());
        $this->process->setTimeout(null);
        $this->process->start();
        while (($line = @stream_socket_client("tcp://127.0.0.1:{$this->server->port}", $number, $because, 1)) === false) {
            $this->process->isRunning() || throw new RuntimeException($this->process->getErrorOutput());
            usleep(20_000);
        }
        fclose($line);
    }

    /** Ends it at once, whatever it is at. */
    public function kill(): void
    {
        $this->process->stop(0, SIGKILL);
    }

    /** What it kept of changes is lost, as when somebody clears its caches. */
    public function forget(): void
    {
        $caches = ['find', $this->server->folder, '-type', 'd', '-name', '.Radicale.cache'];
        (new Process([...$caches, '-exec', 'rm', '-rf', '{}', '+']))->mustRun();
    }

    public function remove(): void
    {
        $this->kill();
        (new Process(['rm', '-rf', $this->server->folder]))->run();
    }

    public function address(): string
    {
        return "http://127.0.0.1:{$this->server->port}/";
    }

    public function open(string $home): DavHome
    {
        return DavHome::open(DavAddress::parse($this->address()), CalendarServer::MASTER, self::PASSWORD, $home);
    }

    /** Where its collections lie. */
    public function files(): string
    {
        return "{$this->server->folder}/files";
    }
}
