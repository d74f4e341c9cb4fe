<?php

declare(strict_types=1);

use Kaiseki\Core\Hypervisor\DiskDoor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Hypervisor\NbdSession;
use Symfony\Component\Process\Process;
use Tests\Support\Scratch;

/*
 * Reference: QEMU's own client (qemu-img), and the NBD protocol, https://github.com/NetworkBlockDevice/nbd/blob/master/doc/proto.md.
 */

/** Some stretches of bytes, and holes between. */
function holedBytes(int $size, int $seed): string
{
    mt_srand($seed);
    $bytes = str_repeat("\0", $size);
    for ($i = 0; $i < 12; $i++) {
        $from = mt_rand(0, $size - 1);
        $length = min(mt_rand(1, 300_000), $size - $from);
        $bytes = substr_replace($bytes, random_bytes($length), $from, $length);
    }

    return $bytes;
}

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->socket = $this->scratch->at('disks.sock');
    $this->images = ['system' => holedBytes((3 << 20) + 512, 7), 'data' => holedBytes(5 << 20, 8)];
    $named = [];
    foreach ($this->images as $name => $bytes) {
        $named[] = "$name=".$this->scratch->file("$name.raw", $bytes);
    }
    $this->server = new Process([PHP_BINARY, dirname(__DIR__, 2).'/Support/served-disks.php', $this->socket, ...$named]);
    $this->server->setTimeout(null);
    $this->server->start();
    while (! file_exists($this->socket)) {
        usleep(5_000);
    }
});

afterEach(function (): void {
    $ended = [$this->server->isRunning(), $this->server->getErrorOutput()];
    $this->server->stop(5);
    $this->scratch->remove();
    expect($ended)->toBe([true, '']);
});

it('gives its disks as qemu-img reads them, holes and all', function (): void {
    foreach (array_keys($this->images) as $name) {
        $url = "nbd+unix:///$name?socket={$this->socket}";
        $compared = new Process(['qemu-img', 'compare', '-f', 'raw', '-F', 'raw', $url, $this->scratch->at("$name.raw")]);
        expect([$compared->run(), $compared->getOutput()])->toBe([0, "Images are identical.\n"]);
        $map = json_decode((new Process(['qemu-img', 'map', '--output=json', '-f', 'raw', $url]))->mustRun()->getOutput(), true);
        $isZero = fn (array $area): bool => trim(substr($this->images[$name], $area['start'], $area['length']), "\0") === '';
        expect(array_filter($map, fn (array $area): bool => $area['zero'] && ! $isZero($area)))->toBe([])
            ->and(array_filter($map, fn (array $area): bool => $area['zero']))->not->toBe([])
            ->and(array_sum(array_column($map, 'length')))->toBe(intdiv(strlen($this->images[$name]) + 511, 512) * 512);
    }
});

it('answers several at once, and one who asks for what is not there as well', function (): void {
    $disks = array_map(fn (string $name): NbdDisk => NbdDisk::open(new DiskDoor($this->socket, $name)), array_keys($this->images));
    mt_srand(9);
    foreach (range(1, 200) as $i) {
        $which = mt_rand(0, 1);
        $bytes = array_values($this->images)[$which];
        $from = mt_rand(0, strlen($bytes) - 1);
        $length = mt_rand(1, min(NbdSession::MOST, strlen($bytes) - $from));
        expect($disks[$which]->read($from, $length) === substr($bytes, $from, $length))->toBeTrue();
    }
    foreach ([fn () => $disks[0]->write(0, 'x'), fn () => NbdDisk::open(new DiskDoor($this->socket, 'no'))] as $refused) {
        expect($refused)->toThrow(HypervisorFailure::class);
    }
    expect($disks[1]->read(0, 100))->toBe(substr($this->images['data'], 0, 100));
});

it('sends no zeros where it is known that there are none but zeros', function (): void {
    $zeros = strpos($this->images['data'], str_repeat("\0", 4 * 65_536));
    $hole = intdiv($zeros + 65_535, 65_536) * 65_536;
    $wire = stream_socket_client("unix://{$this->socket}");
    fwrite($wire, pack('N', 3).pack('J', 0x49484156454F5054).pack('NN', 8, 0)); // IHAVEOPT; structured replies
    fwrite($wire, 'IHAVEOPT'.pack('NN', 7, 10).pack('N', 4).'data'.pack('n', 0)); // go
    fwrite($wire, pack('NnnJJN', 0x25609513, 0, 0, 77, $hole, 2 * 65_536));
    $all = '';
    while (($at = strpos($all, pack('NnnJ', 0x668E33EF, 1, 2, 77))) === false || strlen($all) < $at + 32) {
        $all .= fread($wire, 4096); // structured reply, the last of it, OFFSET_HOLE
    }
    expect(unpack('Nlength/Joffset/Nhole', $all, $at + 16))->toBe(['length' => 12, 'offset' => $hole + 65_536, 'hole' => 65_536]);
    fclose($wire);
});

it('says of an area that it cannot be given back, and goes on', function (): void {
    file_put_contents($this->scratch->at('data.raw'), substr_replace($this->images['data'], 'damaged', 70_000, 7));
    $disk = NbdDisk::open(new DiskDoor($this->socket, 'data'));
    expect(fn () => $disk->read(65_536, 65_536))->toThrow(HypervisorFailure::class, 'cannot give that back')
        ->and($disk->read(200_000, 10))->toBe(substr($this->images['data'], 200_000, 10));
});

it('bears with clients that talk nonsense, stop in the middle, or never listen', function (): void {
    mt_srand(10);
    $head = 'IHAVEOPT';
    $talk = [
        random_bytes(5000),
        pack('N', 3).$head.pack('NN', 7, 0xFFFFFFFF),
        pack('N', 3).$head.pack('NN', 7, 6).pack('N', 0xFFFFFFFF).'xx',
        pack('N', 3).$head.pack('NN', 10, 20).pack('N', 4).'data'.pack('N', 0xFFFFFF).str_repeat('x', 8),
        pack('N', 1).$head.pack('NN', 1, 4).'data'.str_repeat(pack('NnnJJN', 0x25609513, 0, 0, 1, PHP_INT_MAX, 100), 50),
        pack('N', 1).$head.pack('NN', 1, 4).'data'.str_repeat(pack('NnnJJN', 0x25609513, 0, 0, 1, 0, 1 << 20), 3000),
        pack('N', 1).$head.pack('NN', 1, 4).'data'.pack('NnnJJN', 0x25609513, 0, 1, 1, 0, 100).random_bytes(100),
    ];
    $left = [];
    foreach ($talk as $said) {
        $wire = stream_socket_client("unix://{$this->socket}");
        stream_set_blocking($wire, false);
        fwrite($wire, $said);
        mt_rand(0, 1) === 0 ? fclose($wire) : ($left[] = $wire);
    }
    $disk = NbdDisk::open(new DiskDoor($this->socket, 'system'));
    expect($disk->read(0, 1 << 20) === substr($this->images['system'], 0, 1 << 20))->toBeTrue();
    $memory = (string) file_get_contents("/proc/{$this->server->getPid()}/status");
    preg_match('/VmHWM:\s+(\d+)/', $memory, $most);
    expect((int) $most[1])->toBeLessThan(96 << 10);
    array_map(fclose(...), $left);
});
