<?php

declare(strict_types=1);

// bin/bench metal [--mib=150] [--files=3000]: a file system of so many files brought onto a blank disk by the recovery medium, beside plain
// mke2fs and tar on the same machine (QEMU without acceleration), of the same content over the same kind of line, packed the same way.
// The machine has 256 MB of memory. Starts an instance of its own (home var/bench).

use Kaiseki\StandIns\BareMachine;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\BenchTimes;

require __DIR__.'/../../vendor/autoload.php';

const MEMORY = 256;

$options = ['mib' => 150, 'files' => 3000];
foreach (array_slice($argv, 2) as $option) {
    if (preg_match('/^--(mib|files)=(\d+)$/', $option, $m) === 1) {
        $options[$m[1]] = (int) $m[2];
    }
}
$work = BenchTimes::begin('metal');
$home = (string) getenv('KAISEKI_HOME');
$desk = '10.0.2.2:'.explode(':', trim((string) file_get_contents("$home/metal")))[1];
$bytes = 3 * $options['mib'] << 19;

/** @return array<mixed> the document of a command */
function told(string ...$arguments): array
{
    $process = new Process(
        [PHP_BINARY, dirname(__DIR__, 2).'/bin/kaiseki', ...$arguments, '--json'], null, array_intersect_key(getenv(), [
            'KAISEKI_HOME' => 1, 'KAISEKI_ONE_ACCOUNT' => 1,
        ]), null, null,
    );
    $process->run();
    $process->isSuccessful() || exit(fwrite(STDERR, $process->getOutput().$process->getErrorOutput()));

    return (array) json_decode($process->getOutput(), true);
}

/** What a machine said, once it is off. */
function screenOf(BareMachine $machine): string
{
    while ($machine->isOn()) {
        usleep(200_000);
    }

    return $machine->screen();
}

// Half of it compresses, half does not.
$random = new Randomizer(new Mt19937(7));
$each = intdiv($options['mib'] << 20, $options['files']);
for ($i = 0; $i < $options['files']; $i++) {
    $folder = "$work/tree/".($i % 60);
    is_dir($folder) || mkdir($folder, 0755, true);
    file_put_contents("$folder/$i", $i % 2 === 0 ? $random->getBytes($each) : str_repeat("berth $i, high water\n", intdiv($each, 20)));
}
$raw = "$work/data.raw";
BenchTimes::timed('/usr/bin/truncate', '-s', (string) $bytes, $raw);
BenchTimes::timed('/usr/sbin/mke2fs', '-q', '-F', '-t', 'ext4', '-d', "$work/tree", $raw);
mkdir("$work/images");
$image = "$work/images/bench.data.full.20261001T000000Z.qcow2";
BenchTimes::timed('/usr/bin/qemu-img', 'convert', '-c', '-f', 'raw', '-O', 'qcow2', $raw, $image);
told('adopt', "$work/images", '--as=bench', '--kind=machine');
told('medium', 'make', '--format=netboot', "--desk=$desk");

// Ours.
$code = told('medium', 'code', 'bench');
$machine = new BareMachine("$work/ours", ['OURS' => $bytes], memory: MEMORY);
$machine->powerOn("$home/medium", ['desk' => $desk, 'code' => $code['code']]);
while (! str_contains($machine->screen(), 'Enrolled')) {
    $machine->isOn() || exit(fwrite(STDERR, $machine->screen()));
    usleep(200_000);
}
$run = told('restore', 'bench', '--at=2026-10-02T00:00:00Z', "--to-metal={$code['enrolment']}", '--erase=OURS');
$screen = screenOf($machine);
$at = fn (string $words): float => preg_match('/^\[([0-9.]+)\] '.$words.'/m', $screen, $m) === 1 ? (float) $m[1] : NAN;
$written = $at('ext ') - $at('Orders were taken');
$whole = $at('All is done') - $at('Orders were taken');

// The same with nothing but mke2fs and tar: the medium with another init.
mkdir("$work/plain");
mkdir("$work/plain-root");
copy("$home/medium/medium.vmlinuz", "$work/plain/medium.vmlinuz");
BenchTimes::timed('/usr/bin/bsdtar', '-C', "$work/plain-root", '-xf', "$home/medium/medium.initrd");
$line = new Process(['sh', '-c', 'tar -C "$1" --numeric-owner -cf - . | gzip -1 >"$2"', 'sh', "$work/tree", "$work/tree.tar.gz"]);
$line->mustRun();
$server = stream_socket_server('tcp://127.0.0.1:0');
assert($server !== false);
$port = substr((string) strrchr((string) stream_socket_get_name($server, false), ':'), 1);
file_put_contents("$work/plain-root/init", <<<SH
    #!/bin/sh
    export PATH=/usr/sbin:/usr/bin:/sbin:/bin
    /bin/busybox mount -t devtmpfs dev /dev
    mount -t proc proc /proc
    mount -t sysfs sys /sys
    exec </dev/console >/dev/console 2>&1
    for module in $(cat /lib/modules/order); do insmod "/lib/modules/\$module.ko" 2>/dev/null; done
    while [ ! -e /sys/class/net/eth0 ] || [ ! -b /dev/vda ]; do usleep 100000; done
    ip link set eth0 up
    ip addr add 10.0.2.15/24 dev eth0
    began=$(cut -d ' ' -f 1 /proc/uptime)
    mke2fs -q -F -t ext4 /dev/vda
    mount -t ext4 /dev/vda /mnt
    nc 10.0.2.2 $port </dev/null | gunzip -c | /bin/tar -C /mnt -xpf -
    umount /mnt
    echo "plain \$began $(cut -d ' ' -f 1 /proc/uptime)"
    poweroff -f
    SH);
chmod("$work/plain-root/init", 0755);
$archive = ['--format', 'newc', '--uid', '0', '--gid', '0', '--gzip', '-cf', "$work/plain/medium.initrd"];
BenchTimes::timed('/usr/bin/bsdtar', ...[...$archive, '-C', "$work/plain-root", '.']);
$machine = new BareMachine("$work/plain-machine", ['PLAIN' => $bytes], memory: MEMORY);
$machine->powerOn("$work/plain");
$client = stream_socket_accept($server, 300) ?: exit(fwrite(STDERR, $machine->screen()));
stream_copy_to_stream(fopen("$work/tree.tar.gz", 'rb') ?: exit(1), $client);
fclose($client);
$screen = screenOf($machine);
preg_match('/plain ([0-9.]+) ([0-9.]+)/', $screen, $m) === 1 || exit(fwrite(STDERR, $screen));
$plain = (float) $m[2] - (float) $m[1];

printf("%d files, %d MiB, onto a machine with %d MB\n", $options['files'], $options['mib'], MEMORY);
printf("%-58s %8.1f s\n", 'mke2fs, and tar over a line', $plain);
printf("%-58s %8.1f s  %.2f (wanted 1.5)\n", 'ours: made, and filled by signed pieces over TLS', $written, $written / $plain);
printf("%-58s %8.1f s  %.2f\n", 'the same, checked, and read again from the disk', $whole, $whole / $plain);
printf("%-58s %s\n", 'right', array_unique(array_column($run['checks'], 'result')) === ['passed'] ? 'yes' : 'NO');
