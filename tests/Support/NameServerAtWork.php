<?php

declare(strict_types=1);

namespace Tests\Support;

use App\Instance;
use App\Kinds\Machines\Names\UpdatedNameServer;
use Kaiseki\Core\Names\DomainName;
use Kaiseki\Core\Names\TransactionKey;
use Kaiseki\StandIns\NameService;
use Symfony\Component\Process\Process;

/** The stand-in name server as a process of its own, with the zone sorrel.example. */
final class NameServerAtWork
{
    public const ZONE = 'sorrel.example';

    public readonly NameService $service;

    private Process $process;

    /** @param  array<string, string>  $leads */
    public function __construct(array $leads)
    {
        // Below those that programs are given to ask from: dig shares its port with who listens there, and may hear its own question.
        do {
            $port = random_int(20_000, 30_000);
            $free = @stream_socket_server("tcp://127.0.0.1:$port");
        } while ($free === false);
        fclose($free);
        $folder = sys_get_temp_dir().'/kaiseki-ns-'.bin2hex(random_bytes(4));
        $programs = Instance::path('named');
        (new Process([dirname(__DIR__, 2).'/bin/name-server-packages', $programs]))->setTimeout(null)->mustRun();
        $this->service = NameService::in($folder, $port, self::ZONE, $programs, $leads);
        $this->begin();
    }

    public function begin(): void
    {
        $this->process = new Process($this->service->command());
        $this->process->setTimeout(null);
        $this->process->start();
        // Its last word at the start is "running"; "running as" is one of its first, before it listens.
        while ($this->process->isRunning() && preg_match('/ running$/m', $this->process->getErrorOutput()) !== 1) {
            usleep(10_000);
        }
    }

    public function end(): void
    {
        $this->process->stop(10);
    }

    public function remove(): void
    {
        $this->end();
        (new Process(['rm', '-rf', $this->service->folder]))->run();
    }

    public function open(?TransactionKey $key = null): UpdatedNameServer
    {
        $key ??= TransactionKey::ofFile($this->service->keyFile());

        return new UpdatedNameServer('127.0.0.1', $this->service->port, DomainName::of(self::ZONE), $key);
    }

    /** What anybody is told who asks it. */
    public function says(string $name, string $type = 'A'): string
    {
        $command = ['dig', '-r', '-p', (string) $this->service->port, '@127.0.0.1', '+short', '-q', $name, '-t', $type];

        return trim((new Process($command))->mustRun()->getOutput());
    }
}
