<?php

declare(strict_types=1);

use Symfony\Component\Process\Process;
use Tests\Support\Instance;

function pidOf(string $program): int
{
    $status = Instance::control('status').Instance::rootControl('status');

    return preg_match("/^$program\\S*\\s+RUNNING\\s+pid (\\d+)/m", $status, $m) === 1 ? (int) $m[1] : 0;
}

it('has a killed process back', function (string $program): void {
    $before = pidOf($program);
    expect($before)->toBeGreaterThan(0);
    posix_kill($before, SIGKILL);
    expect(Instance::waitUntil(fn (): bool => ! in_array(pidOf($program), [0, $before], true)))->toBeTrue();
    expect(
        Instance::waitUntil(
            fn (): bool => @file_get_contents(
                'http://127.0.0.1:'.trim((string) file_get_contents(Instance::home().'/port')).'/health',
            ) === 'ok',
        ),
    )->toBeTrue();
})->with(['workers:runs_0', 'workers:clock_0', 'scheduler', 'nginx', 'fpm', 'database', 'host-here', 'application']);

it('has at least two workers for runs', function (): void {
    expect(
        Instance::waitUntil(fn (): bool => preg_match_all('/^workers:runs_\d+\s+RUNNING/m', Instance::control('status')) >= 2),
    )->toBeTrue();
});

it('is found running when it is started again, and says where', function (): void {
    $port = trim((string) file_get_contents(Instance::home().'/port'));
    $process = new Process([dirname(__DIR__, 2).'/bin/start', '--background'], null, [
        'KAISEKI_HOME' => Instance::home(),
        'KAISEKI_PORT' => $port,
    ]);
    $process->mustRun();
    expect($process->getOutput())
        ->toContain('Already running')
        ->toContain("http://127.0.0.1:$port");
});

it('says clearly that a port is in use', function (): void {
    $home = sys_get_temp_dir().'/kaiseki-second-'.bin2hex(random_bytes(4));
    $process = new Process([dirname(__DIR__, 2).'/bin/start', '--background', '--no-demo'], null, [
        'KAISEKI_HOME' => $home,
        'KAISEKI_PORT' => trim((string) file_get_contents(Instance::home().'/port')),
    ]);
    $process->run();
    expect($process->getExitCode())
        ->toBe(1)
        ->and($process->getErrorOutput())
        ->toContain('is in use by another program')
        ->toContain('KAISEKI_PORT');
    (new Process(['rm', '-rf', $home]))->mustRun();
});

it('runs beside another instance from the same checkout, and stops only what it started', function (): void {
    $home = sys_get_temp_dir().'/kaiseki-second-'.bin2hex(random_bytes(4));
    $socket = stream_socket_server('tcp://127.0.0.1:0');
    $port = substr((string) strrchr((string) stream_socket_get_name($socket, false), ':'), 1);
    fclose($socket);
    $environment = ['KAISEKI_HOME' => $home, 'KAISEKI_PORT' => $port, 'KAISEKI_ENV' => false];
    (new Process([dirname(__DIR__, 2).'/bin/start', '--background', '--no-demo'], null, $environment, null, 300))->mustRun();
    expect(file_get_contents("http://127.0.0.1:$port/health"))->toBe('ok');
    $listening = (new Process(['sh', '-c', 'cat /proc/net/tcp /proc/net/tcp6']))->mustRun()->getOutput();
    // In /proc/net/tcp the address comes first, as hex: 0100007F is 127.0.0.1; state 0A is listening.
    preg_match_all('/^\s*\d+: ([0-9A-F]+):'.strtoupper(sprintf('%04x', $port)).' \S+ 0A/m', $listening, $m);
    expect($m[1])->toBe(['0100007F']);
    (new Process([dirname(__DIR__, 2).'/bin/stop'], null, $environment))->mustRun();
    expect((new Process(['curl', '--silent', "http://127.0.0.1:$port/health"]))->run())->toBe(7); // refused
    expect((new Process(['pgrep', '-f', $home]))->run())->toBe(1);
    expect(file_get_contents('http://127.0.0.1:'.trim((string) file_get_contents(Instance::home().'/port')).'/health'))->toBe('ok');
    (new Process(['rm', '-rf', $home]))->mustRun();
});
