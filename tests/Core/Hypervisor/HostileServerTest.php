<?php

declare(strict_types=1);

use Kaiseki\Core\Host\Wire;
use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Hypervisor\DiskDoor;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Hypervisor\RemoteHypervisor;
use Kaiseki\Core\Hypervisor\UnfitSettings;
use Symfony\Component\Process\Process;
use Tests\Support\Scratch;

/*
 * Servers that say what they should not. The lengths and numbers are those of the NBD protocol
 * (https://github.com/NetworkBlockDevice/nbd/blob/master/doc/proto.md).
 */

beforeEach(function (): void {
    $this->scratch = new Scratch('/tmp');
});
afterEach(function (): void {
    isset($this->server) && $this->server->stop(0);
    $this->scratch->remove();
});

/** A server that says all it has to say at once, and hangs up when the other side does. */
function says(mixed $test, string $name, string $bytes): string
{
    $path = $test->scratch->at($name);
    $script = '$s = stream_socket_server("unix://$argv[1]"); echo "listens"; $c = stream_socket_accept($s, 60);
        fwrite($c, base64_decode($argv[2]));
        stream_set_timeout($c, 1); if ($argv[3] === "stay") { while (($b = fread($c, 65536)) !== false && $b !== "" && ! feof($c)); }';
    $test->server = new Process([PHP_BINARY, '-r', $script, '--', $path, base64_encode($bytes), $bytes === '' ? 'go' : 'stay']);
    $test->server->start();
    while (! str_contains($test->server->getOutput(), 'listens') && $test->server->isRunning()) {
        usleep(5000); // its name is there before it does
    }

    return $path;
}

function option(int $option, int $type, string $data = ''): string
{
    return pack('JNNN', 0x3E889045565A9, $option, $type, strlen($data)).$data;
}

const GREETING = "NBDMAGICIHAVEOPT\0\3";

/** All that is said until a disk of a megabyte is open. */
function opened(): string
{
    return GREETING.
        option(8, 1).
        option(10, 4, pack('N', 7).'base:allocation').
        option(10, 1).
        option(7, 3, pack('nJn', 0, 1 << 20, 1)).
        option(7, 1);
}

function chunk(int $type, string $data, int $flags = 1, ?int $length = null): string
{
    return pack('NnnJN', 0x668E33EF, $flags, $type, 1, $length ?? strlen($data)).$data;
}

it('refuses a disk whose server does not keep to the protocol', function (string $said): void {
    NbdDisk::open(new DiskDoor(says($this, 'nbd', $said)));
})
    ->with([
        'nothing' => '',
        'another greeting' => 'SSH-2.0-nothing of the kind',
        'no structured replies' => GREETING.option(8, (1 << 31) + 1),
        'a reply of four gigabytes' => GREETING.pack('JNNN', 0x3E889045565A9, 8, 1, 0xFFFFFFFF),
        'contexts that were not asked for' => GREETING.option(8, 1).option(10, 4, pack('N', 7).'other:thing').option(10, 1),
        'a disk of less than nothing' => GREETING.
            option(8, 1).
            option(10, 4, pack('N', 7).'base:allocation').
            option(10, 1).
            option(7, 3, pack('nJn', 0, -1, 1)).
            option(7, 1),
        'no size' => GREETING.option(8, 1).option(10, 4, pack('N', 7).'base:allocation').option(10, 1).option(7, 1),
        'half a reply' => GREETING.option(8, 1).'xx',
    ])
    ->throws(HypervisorFailure::class);

it('refuses answers that are more, or something else, than was asked for', function (string $answer, callable $ask): void {
    $disk = NbdDisk::open(new DiskDoor(says($this, 'nbd', opened().$answer)));
    expect($disk->size())
        ->toBe(1 << 20)
        ->and(fn () => $ask($disk))
        ->toThrow(HypervisorFailure::class);
})->with([
    'data behind the area' => [chunk(1, pack('J', 1 << 19).str_repeat('x', 8192)), fn ($disk) => $disk->read(0, 4096)],
    'a chunk without end' => [chunk(1, '', 1, 0x7FFFFFFF), fn ($disk) => $disk->read(0, 4096)],
    'an error' => [chunk(0x8001, pack('Nn', 5, 4).'worn'), fn ($disk) => $disk->read(0, 4096)],
    'no answer of it' => [str_repeat('z', 64), fn ($disk) => $disk->write(0, 'x')],
    'areas of no length' => [chunk(5, pack('NNN', 7, 0, 0)), fn ($disk) => [...$disk->held()]],
    'half a number' => [chunk(5, 'ab'), fn ($disk) => [...$disk->held()]],
]);

it('believes no hypervisor that names what it may not', function (array $answer, string $why, callable $ask): void {
    says($this, RemoteHypervisor::SOCKET, Wire::encode($answer));
    expect(fn () => $ask(new RemoteHypervisor('ketch', $this->scratch->path)))->toThrow(HypervisorFailure::class, $why);
})->with([
    'a door elsewhere' => [['y', '{"door": "../../etc/passwd"}'], 'none of its own', fn ($h) => $h->openDisk('kelp', 'system', false)],
    'a door that is no name' => [['y', '{"door": ["x"]}'], 'nobody understands', fn ($h) => $h->openDisk('kelp', 'system', true)],
    'no JSON' => [['y', '<html>'], 'nobody understands', fn ($h) => $h->machines()],
    'a machine that cannot be named so' => [
        ['y', '{"machines": [{"settings": {"name": "../x"}}]}'], 'nobody understands', fn ($h) => $h->machines(),
    ],
    'room that is no number' => [['y', '{"memory_mib": "much"}'], 'nobody understands', fn ($h) => $h->room()],
    'a no without a reason' => [['n'], 'did not say why', fn ($h) => $h->start('kelp')],
]);

it('takes no settings that no machine can have', function (Closure $make): void {
    $make();
})
    ->with([
        [fn () => new DiskSettings('a/b', 512)],
        [fn () => new DiskSettings('a', 513)],
        [fn () => new DiskSettings('a', 1 << 60)],
        [fn () => new CardSettings('harbour', '01:00:00:00:00:00')],
        [fn () => new CardSettings('har bour', '52:54:00:00:00:00')],
        [fn () => new MachineSettings('..', [])],
        [fn () => new MachineSettings('kelp', [new DiskSettings('a', 512), new DiskSettings('a', 512)])],
        [fn () => new MachineSettings('kelp', [], boot: ['a'])],
        [fn () => new MachineSettings('kelp', [], memory: 0)],
        [fn () => new MachineSettings('kelp', [], isSecureBoot: true)],
        [fn () => MachineSettings::fromArray(['name' => 'kelp', 'disks' => 'all'])],
    ])
    ->throws(UnfitSettings::class);

it('tells two settings apart in words, and reads what it wrote', function (): void {
    $was = new MachineSettings('kelp', [new DiskSettings('system', 8 << 20)], [new CardSettings('harbour', '52:54:00:00:00:01')], 512);
    expect(MachineSettings::fromArray(json_decode(json_encode($was->toArray()), true)))
        ->toEqual($was)
        ->and($was->differences($was))
        ->toBe([])
        ->and($was->with(memory: 256, cards: [])->differences($was))
        ->toBe(['memory 256 MiB, was 512 MiB', 'cards none, was 52:54:00:00:00:01 on harbour']);
});
