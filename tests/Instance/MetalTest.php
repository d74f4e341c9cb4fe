<?php

declare(strict_types=1);

use Kaiseki\StandIns\BareMachine;
use Kaiseki\StandIns\SorrelSoundMachine;
use Symfony\Component\Process\Process;
use Tests\Support\Guest;
use Tests\Support\Instance;
use Tests\Support\Scratch;

/*
 * A machine onto the disks of another: the medium is started on a machine of QEMU, over the line with TLS, and everything it writes is
 * looked at with ordinary tools: sfdisk, e2fsck, debugfs, cmp. Then it is started from its own disks, and asked who it is.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->name = 'metal-'.bin2hex(random_bytes(3));
    $this->desk = '10.0.2.2:'.explode(':', trim((string) file_get_contents(Instance::home().'/metal')))[1];
    $this->machine = null;
    $this->told = function (int $code, string ...$arguments): array {
        $answer = Instance::kaiseki(...[...$arguments, '--json']);
        expect($answer->code)->toBe($code, $answer->text);

        return $answer->json();
    };
    // What was backed up: a real Linux, with files that are odd.
    $this->source = new SorrelSoundMachine($this->scratch->at('work'), $this->scratch->at('images'), $this->name, Guest::system());
    $this->source->begin(new DateTimeImmutable('2026-10-20'));
    $root = $this->source->disk('system').'?offset='.(25 << 20);
    $capability = $this->scratch->file('capability', (string) hex2bin('0100000200200000000000000000000000000000'));
    (new Process(['debugfs', '-w', '-f', '-', $root], null, null, implode("\n", [
        'mkdir "/srv/crew $(reboot)"', 'write /etc/services "/srv/crew $(reboot)/-rf ; *"', 'symlink /srv/now /srv/today.csv',
        'write /etc/services /srv/capable', "ea_set -f $capability /srv/capable security.capability",
        'ea_set /srv/capable user.berth nine', 'set_inode_field /srv/capable uid 70001', 'set_inode_field /srv/capable mode 0104751',
        'set_inode_field /srv/capable mtime @1500000000', 'ln /srv/capable /srv/second', 'set_inode_field /srv/capable links_count 2',
    ])."\n"))->mustRun();
    $this->source->night(new DateTimeImmutable('2026-10-20T23:10:00Z'), 'full');
    ($this->told)(0, 'adopt', $this->scratch->at('images'), "--as={$this->name}", '--kind=machine');
    $this->at = ['--at=2026-10-21T12:00:00Z'];
    $this->medium = Instance::home().'/medium';
    is_file("{$this->medium}/medium.initrd") || ($this->told)(0, 'medium', 'make', '--format=netboot', "--desk={$this->desk}");
    /** Starts the medium on a machine, until that is enrolled. */
    $this->enrol = function (BareMachine $machine, ?string $medium = null): string {
        $code = ($this->told)(0, 'medium', 'code', $this->name);
        $this->machine = $machine;
        $machine->powerOn($medium ?? $this->medium, ['desk' => $this->desk, 'code' => $code['code']]);
        $mine = fn (): array => array_column(($this->told)(0, 'enrolled')['enrolled'], null, 'enrolment')[$code['enrolment']];
        while ($mine()['machine'] === null || ! str_contains($machine->screen(), $mine()['words'])) {
            expect($machine->isOn())->toBeTrue($machine->screen());
            usleep(300_000);
        }

        return (string) $code['enrolment'];
    };
    $this->untilOff = function (): void {
        while ($this->machine->isOn()) {
            usleep(200_000);
        }
    };
});

afterEach(function (): void {
    $this->machine?->cutPower();
    $this->scratch->remove();
});

it('comes onto other disks, larger ones in another order, and starts from them as itself', function (): void {
    $machine = new BareMachine($this->scratch->at('gate'), ['DATA-9' => 40 << 20, 'GATE-7' => 150 << 20]);
    file_put_contents($machine->disk('GATE-7'), str_repeat('old', 4_000_000));
    (new Process(['truncate', '-s', (string) (150 << 20), $machine->disk('GATE-7')]))->mustRun();
    $enrolment = ($this->enrol)($machine);
    $order = ['restore', $this->name, ...$this->at, "--to-metal=$enrolment", '--onto=system=vdb', '--onto=data=vda'];
    // Nothing is written over that was not named, and nothing that does not fit is begun.
    expect(($this->told)(3, ...$order)['blockers'])->toBe([
        'vdb would be written over: confirm it with --erase=GATE-7.', 'vda would be written over: confirm it with --erase=DATA-9.',
    ]);
    $propose = ['layout', 'propose', $this->name, $enrolment, ...$this->at];
    $small = ($this->told)(3, ...[...$propose, '--onto=system=vda', '--onto=data=vdb']);
    expect($small['misfits'][0])->toContain('does not fit onto vda');
    $plan = ($this->told)(0, ...[...$order, '--dry-run']);
    $free = stream_socket_server('tcp://127.0.0.1:0');
    $port = (int) substr((string) strrchr((string) stream_socket_get_name($free, false), ':'), 1);
    fclose($free);
    $process = Instance::process(...[
        ...$order, '--erase=GATE-7', '--erase=DATA-9', '--restart', "--address=127.0.0.1:$port", '--asked=/cgi-bin/state',
        '--answers=/system.2/etc/hostname', '--answers=/system.2/etc/machine-id', '--json',
    ]);
    $process->start();
    ($this->untilOff)();
    // Somebody takes the medium out, and it starts by itself; its cables are as its loader wants them now.
    $this->machine = new BareMachine($this->scratch->at('gate'), ['GATE-7' => 150 << 20, 'DATA-9' => 40 << 20]);
    $this->machine->powerOn(null, [], $port);
    $process->wait();
    $this->machine->cutPower();
    $told = json_decode($process->getOutput(), true);
    expect($process->getExitCode())->toBe(0, $process->getOutput())
        ->and(array_unique(array_column($told['checks'], 'result')))->toBe(['passed'])
        ->and(array_column($told['checks'], 'check'))
        ->toBe(['every byte of system.1', 'what lies on system.2', 'what lies on data', 'it answers, as itself']);

    // The medium that it was is the desk's, by what lies beside it.
    $beside = [$this->medium, $this->scratch->folder('key')];
    (new Process(['sha256sum', '--check', '--strict', 'medium.netboot.sha256'], $beside[0]))->mustRun();
    $key = Instance::home().'/keys/metal.ed25519';
    file_put_contents("$beside[1]/desk.pem", "-----BEGIN PUBLIC KEY-----\n".base64_encode((string) hex2bin('302a300506032b6570032100').
        substr((string) file_get_contents($key), -32))."\n-----END PUBLIC KEY-----\n");
    (new Process(['openssl', 'pkeyutl', '-verify', '-pubin', '-inkey', "$beside[1]/desk.pem", '-rawin', '-in',
        "$beside[0]/medium.netboot.sha256", '-sigfile', "$beside[0]/medium.netboot.sha256.sig"]))->mustRun();

    // What was ordered is what stands there, by other tools.
    $tableOf = fn (string $disk): array => json_decode(
        (new Process(['sfdisk', '--json', $disk]))->mustRun()->getOutput(),
        true,
    )['partitiontable'];
    [$table, $was] = [$tableOf($machine->disk('GATE-7')), $tableOf($this->source->disk('system'))];
    $of = fn (array $one): array => [$one['uuid'], $one['type'], $one['name']];
    $named = fn (array $table): array => array_map($of, $table['partitions']);
    expect($table['id'])->toBe($was['id'])->and($named($table))->toBe($named($was))
        ->and($table['partitions'][1]['size'] * 512)->toBe($plan['disks'][0]['partitions'][1]['bytes'])->toBeGreaterThan(100 << 20);
    $root = $machine->disk('GATE-7').'?offset='.($table['partitions'][1]['start'] * 512);
    foreach ([$root, $machine->disk('DATA-9')] as $files) {
        expect((new Process(['e2fsck', '-fn', $files]))->run())->toBe(0);
    }
    $kept = '/(Type: \w+|Mode:\s+\d+|User:\s+\d+|Group:\s+\d+|Size: \d+|Links: \d+|mtime: .*|security\.\S+ .*|user\.\S+ .*)/';
    $facts = fn (string $said): array => preg_match_all($kept, $said, $m) > 0 ? preg_replace('/0x[0-9a-f]+(:[0-9a-f]+)?/', '', $m[0]) : [];
    $asked = ['stat "/srv/crew $(reboot)/-rf ; *"', 'stat /srv/capable', 'stat /srv/now', 'ea_list /srv/capable', 'stat /srv/second'];
    foreach ($asked as $ask) {
        $before = (new Process(['debugfs', '-R', $ask, $this->source->disk('system').'?offset='.(25 << 20)]))->mustRun()->getOutput();
        $after = (new Process(['debugfs', '-R', $ask, $root]))->mustRun()->getOutput();
        expect($facts($after))->toEqualCanonicalizing($facts($before))->and($facts($before))->not->toBe([]);
    }

    expect(Instance::kaiseki('proof', (string) $told['run'])->code)->toBe(0);
});

it('refuses what its desk did not sign, and who it does not know', function (): void {
    $machine = new BareMachine($this->scratch->at('gate'), ['A' => 100 << 20, 'B' => 40 << 20]);
    $before = glob(Instance::home().'/runs/*/metal/content') ?: []; // of runs that were killed
    $enrolment = ($this->enrol)($machine);
    $process = Instance::process(
        'restore', $this->name, ...[...$this->at, "--to-metal=$enrolment", '--erase=A', '--erase=B', '--json'],
    );
    $process->start();
    // A piece is changed between the desk's signature and the medium, and a second time, and again.
    $folder = null;
    while ($process->isRunning()) {
        $folder ??= array_values(array_diff(glob(Instance::home().'/runs/*/metal/content') ?: [], $before))[0] ?? null;
        foreach ($folder === null ? [] : (glob("$folder/2.0") ?: []) as $piece) {
            $bytes = (string) @file_get_contents($piece);
            strlen($bytes) > 300 && ord($bytes[299]) !== 0x58 && file_put_contents($piece, substr_replace($bytes, 'X', 299, 1));
        }
        usleep(20_000);
    }
    $told = json_decode($process->getOutput(), true);
    expect($process->getExitCode())->toBe(4)
        ->and($told['error'])->toContain('is not what the desk signed')->toContain('is half of it, and will not start');
    ($this->untilOff)();
    expect($machine->screen())->toContain('STOPPED');

    // A code that is wrong three times is over, and so is one that was used.
    $code = ($this->told)(0, 'medium', 'code', $this->name);
    $facts = '{"firmware":"bios","disks":[]}';
    $line = fn (string $path, string $body, string $token = ''): int => (int) (new Process([
        'curl', '--silent', '--output', '/dev/null', '--write-out', '%{http_code}', '--cacert', Instance::home().'/keys/metal.crt',
        '--connect-to', 'kaiseki-desk:443:127.0.0.1:'.explode(':', $this->desk)[1], '--header', "X-Kaiseki-Token: $token",
        '--header', 'Content-Type: application/octet-stream',
        ...$body === '' ? [] : ['--data-binary', $body], "https://kaiseki-desk/metal/$path",
    ]))->mustRun()->getOutput();
    expect($line('enrol', "{$code['code']}\n{}"))->toBe(400);
    foreach (range(1, 3) as $try) {
        expect($line('enrol', "{$code['enrolment']}-apple-apple-apple-apple\n$facts"))->toBe(403);
    }
    expect($line('enrol', "{$code['code']}\n$facts"))->toBe(403)
        ->and(array_column(($this->told)(0, 'enrolled')['enrolled'], 'state', 'enrolment')[$code['enrolment']])->toContain('wrong code');
    $code = ($this->told)(0, 'medium', 'code', $this->name);
    expect($line('enrol', "{$code['code']}\n$facts"))->toBe(200)->and($line('enrol', "{$code['code']}\n$facts"))->toBe(403)
        ->and($line('orders', '', 'guessed'))->toBe(410)->and($line('content/0/0', '', str_repeat('0', 64)))->toBe(410);
    // By the line of the pages there is nothing at these addresses.
    $port = trim((string) file_get_contents(Instance::home().'/port'));
    $plain = new Process([
        'curl', '--silent', '--output', '/dev/null', '--write-out', '%{http_code}', "http://127.0.0.1:$port/metal/orders",
    ]);
    expect($plain->mustRun()->getOutput())->toBe('404');
});

it('starts from a stick and from a disc, by either firmware, and so does what it brought', function (array $how): void {
    [$format, $firmware, $controller, $card] = $how;
    $made = ($this->told)(0, 'medium', 'make', "--format=$format", "--desk={$this->desk}");
    expect($made['files'][0]['sha256'])->toBe(hash_file('sha256', $made['files'][0]['file']));
    $machine = new BareMachine($this->scratch->at('gate'), ['A' => 70 << 20, 'B' => 32 << 20], $firmware, $controller, $card);
    $enrolment = ($this->enrol)($machine, $made['files'][0]['file']);
    $told = ($this->told)(0, 'restore', $this->name, ...[
        ...$this->at, "--to-metal=$enrolment", '--onto=system='.($controller === 'nvme' ? 'nvme0n1' : 'sda'), '--erase=A', '--erase=B',
    ]);
    expect(array_unique(array_column($told['checks'], 'result')))->toBe(['passed']);
    ($this->untilOff)();
    $machine->powerOn();
    while (! str_contains($machine->screen(), "guest: {$this->name} serves")) {
        expect($machine->isOn())->toBeTrue($machine->screen());
        usleep(200_000);
    }
})->with([
    'a stick, by UEFI, on NVMe, smaller' => [['stick', 'uefi', 'nvme', 'virtio-net-pci']],
    'a disc, by BIOS, on IDE, another card' => [['iso', 'bios', 'ide', 'e1000']],
])->group('deep');

it('makes XFS anew on a smaller disk with all that it had, and so does a person with the sheet', function (): void {
    $run = fn (string ...$command): string => (new Process($command, null, null, null, 300))->mustRun()->getOutput();
    /** What the kernel finds on a volume, with its attributes: needs root, and a loop device. */
    $listed = function (string $disk) use ($run): string {
        $at = $this->scratch->folder('look');
        $run('mount', '-t', 'xfs', '-o', 'loop,ro,norecovery,nouuid', $disk, $at);
        try {
            return $run('sh', '-c', 'cd "$1" && find . -printf "%y %m %U %G %s %T@ %n %p %l\n" | grep -v "^d" | sort &&
                find . -type f -print0 | sort -z | xargs -0 sha256sum && getfattr -R -h -d -m - -e hex . | sort', 'sh', $at);
        } finally {
            $run('umount', $at);
            rmdir($at);
        }
    };
    $data = $this->source->disk('data');
    $run('truncate', '-s', '700M', $data);
    $run('mkfs.xfs', '-q', '-f', '-L', 'plans', '-m', 'bigtime=0', $data);
    $at = $this->scratch->folder('fill');
    $run('mount', '-o', 'loop', $data, $at);
    $run('sh', '-c', 'cd "$1" && mkdir -p "plans/a b" && cp /etc/services "plans/a b/-rf ; *" && ln -s services plans/now &&
        truncate -s 200M plans/sparse && echo end >>plans/sparse && ln plans/sparse plans/second && chown 70001:7 plans/sparse &&
        setfattr -n user.berth -v nine plans/sparse && setfacl -m u:12:r plans/sparse && chmod 4751 "plans/a b/-rf ; *" &&
        touch -d 1999-01-02T03:04:05.678901234Z plans/sparse', 'sh', $at);
    $run('umount', $at);
    $this->source->night(new DateTimeImmutable('2026-10-22T23:10:00Z'), 'full');
    $name = "{$this->name}-x";
    ($this->told)(0, 'adopt', $this->scratch->at('images'), "--as=$name", '--kind=machine');
    $this->name = $name;
    $machine = new BareMachine($this->scratch->at('gate'), ['A' => 100 << 20, 'B' => 400 << 20]);
    $enrolment = ($this->enrol)($machine);
    $order = ['--at=2026-10-23T12:00:00Z', "--to-metal=$enrolment"];
    $sheet = $this->scratch->at('sheet');
    ($this->told)(0, 'hand-sheet', $name, ...[...$order, "--out=$sheet"]);
    $told = ($this->told)(0, 'restore', $name, ...[...$order, '--erase=A', '--erase=B', '--new-machine-id']);
    ($this->untilOff)();
    $root = $machine->disk('A').'?offset='.(25 << 20);
    expect(array_unique(array_column($told['checks'], 'result')))->toBe(['passed'])
        ->and($told['checks'][0]['check'])->toBe('the machine id')->and($run('debugfs', '-R', 'cat /etc/machine-id', $root))->toBe('')
        ->and($run('debugfs', '-R', 'cat /etc/hostname', $root))->not->toBe('')
        ->and($listed($machine->disk('B')))->toBe($listed($data));
    $says = fn (string $disk): string => $run('xfs_db', '-r', '-c', 'version', '-c', 'sb 0', '-c', 'p uuid', '-c', 'p fname', $disk);
    expect($says($machine->disk('B')))->toBe($says($data))->and((new Process(['xfs_repair', '-n', $machine->disk('B')]))->run())->toBe(0);

    $disks = [$this->scratch->at('sda'), $this->scratch->at('sdb')];
    $run('truncate', '-s', (string) (100 << 20), $disks[0]);
    $run('truncate', '-s', (string) (400 << 20), $disks[1]);
    (new Process(['sh', $sheet, $this->scratch->folder('by-hand')], null, ['DISK_1' => $disks[0], 'DISK_2' => $disks[1]], "WRITE\n", 300))
        ->mustRun();
    expect($listed($disks[1]))->toBe($listed($data))->and($says($disks[1]))->toBe($says($data));
})->group('deep');

it('makes a volume group anew over two disks, which lvm2 finds there', function (): void {
    $run = fn (string ...$command): string => (new Process($command, null, ['LVM_SUPPRESS_FD_WARNINGS' => '1'], null, 300))
        ->mustRun()
        ->getOutput();
    foreach (['system', 'data'] as $disk) {
        copy("compress.zlib://tests/Fixtures/lvm/$disk.raw.gz", $this->source->disk($disk));
    }
    $this->source->night(new DateTimeImmutable('2026-10-22T23:10:00Z'), 'full');
    $name = "{$this->name}-v";
    ($this->told)(0, 'adopt', $this->scratch->at('images'), "--as=$name", '--kind=machine');
    $this->name = $name;
    // The second is smaller than it was: what lay on it goes over to the first.
    $machine = new BareMachine($this->scratch->at('gate'), ['A' => 60 << 20, 'B' => 12 << 20]);
    $enrolment = ($this->enrol)($machine);
    $order = ['--at=2026-10-23T12:00:00Z', "--to-metal=$enrolment", '--onto=system=vda', '--onto=data=vdb'];
    expect(($this->told)(3, 'restore', $name, ...$order)['blockers'])->toBe([
        'vdb would be written over: confirm it with --erase=B.', 'vda would be written over: confirm it with --erase=A.',
    ]);
    $told = ($this->told)(0, 'restore', $name, ...[...$order, '--erase=A', '--erase=B']);
    ($this->untilOff)();
    expect(array_unique(array_column($told['checks'], 'result')))->toBe(['passed'])
        ->and(array_column($told['checks'], 'check'))->toContain('what system.2 says of its volume group')
        ->toContain('what lies on harbour-root')->toContain('what lies on harbour-strips');

    $start = json_decode($run('sfdisk', '--json', $machine->disk('A')), true)['partitiontable']['partitions'][1]['start'] * 512;
    $loops = [
        trim($run('losetup', '--find', '--show', '--offset', (string) $start, $machine->disk('A'))),
        trim($run('losetup', '--find', '--show', $machine->disk('B'))),
    ];
    try {
        $lvm = fn (string ...$command): string => $run(...[...$command, '--driverloaded', 'n', '--devices', implode(',', $loops)]);
        $said = $lvm('lvs', '--noheadings', '--units', 'k', '--separator', ' ', '-o', 'lv_name,lv_size,lv_uuid', 'harbour');
        expect(array_map(trim(...), explode("\n", trim($said))))->toBe([
            'plans 6144.00k ycyrun-KamE-ORCF-svXX-dNBI-yMUh-PTHtum', 'root 12288.00k SOnsqV-v5rX-WiU0-Tr76-MkxW-k0Sp-kAuUvD',
            'strips 4096.00k CGCxWH-QeVD-FEVR-M3Dp-Qx2M-9dZY-XxN4MM',
        ]);
        $lvm('vgck', 'harbour');
    } finally {
        array_map(fn (string $loop): string => $run('losetup', '--detach', $loop), $loops);
    }
})->group('deep');

it('rehearses all of it but writing, and goes on where it was when the line was cut', function (): void {
    $machine = new BareMachine($this->scratch->at('gate'), ['A' => 100 << 20, 'B' => 40 << 20]);
    $blank = fn (): array => array_map(fn (string $disk): string => md5_file($machine->disk($disk)), ['A', 'B']);
    $before = $blank();
    $enrolment = ($this->enrol)($machine);
    $process = Instance::process('restore', $this->name, ...[...$this->at, "--to-metal=$enrolment", '--rehearse', '--json']);
    $process->start();
    while ($process->isRunning() && ! str_contains($machine->screen(), 'table vda')) {
        usleep(50_000);
    }
    Instance::control('stop', 'nginx');
    sleep(5);
    Instance::control('start', 'nginx');
    $process->wait();
    $told = json_decode($process->getOutput(), true);
    ($this->untilOff)();
    expect($process->getExitCode())->toBe(0, $process->getOutput())
        ->and(array_column($told['checks'], 'check'))->toBe(['rehearsed'])
        ->and($blank())->toBe($before);
})->group('deep');

it('says so when the machine falls silent in the middle, and what its disks hold then', function (): void {
    $machine = new BareMachine($this->scratch->at('gate'), ['A' => 100 << 20, 'B' => 40 << 20]);
    $enrolment = ($this->enrol)($machine);
    $process = Instance::process('restore', $this->name, ...[...$this->at, "--to-metal=$enrolment", '--erase=A', '--erase=B', '--json']);
    $process->start();
    while ($process->isRunning() && ! str_contains($machine->screen(), 'image vda')) {
        usleep(50_000);
    }
    $machine->cutPower();
    $process->wait();
    expect($process->getExitCode())->toBe(4)
        ->and(json_decode($process->getOutput(), true)['error'])->toContain('not been heard of')->toContain('is half of it');
    // And with a new code it begins anew, whatever stands there now.
    $again = ($this->enrol)($machine);
    $told = ($this->told)(0, 'restore', $this->name, ...[...$this->at, "--to-metal=$again", '--erase=A', '--erase=B']);
    expect(array_unique(array_column($told['checks'], 'result')))->toBe(['passed']);
})->group('deep');

it('waits, takes what newer points have changed, and is switched over to the newest', function (): void {
    $machine = new BareMachine($this->scratch->at('gate'), ['A' => 100 << 20, 'B' => 40 << 20]);
    $enrolment = ($this->enrol)($machine);
    $order = ['restore', $this->name, ...$this->at, "--to-metal=$enrolment", '--erase=A', '--erase=B'];
    $told = ($this->told)(0, ...[...$order, '--restart', '--follow=1']);
    expect(array_unique(array_column($told['checks'], 'result')))->toBe(['passed'])->and($told['next'])->toBe([]);
    $now = fn (): array => array_column(($this->told)(0, 'enrolled')['enrolled'], null, 'enrolment')[$enrolment];
    expect($now()['state'])->toBe('waits for newer points')->and($machine->isOn())->toBeTrue()
        ->and(($this->told)(3, ...$order)['blockers'][0])->toContain('switch it over, or end its enrolment');

    // A day passes: things come, go, and become others of the same size and time.
    $root = $this->source->disk('system').'?offset='.(25 << 20);
    $change = function (string ...$commands) use ($root): void {
        (new Process(['debugfs', '-w', '-f', '-', $root], null, null, implode("\n", $commands)."\n"))->mustRun();
    };
    $before = $now()['at'];
    $this->source->day(new DateTimeImmutable('2026-10-21'));
    $change('rm "/srv/crew $(reboot)/-rf ; *"', 'rmdir "/srv/crew $(reboot)"', 'mkdir /srv/new', 'write /etc/protocols /srv/new/protocols',
        'rm /srv/now', 'symlink /srv/now /srv/new', 'set_inode_field /srv/capable mode 0104711', 'set_inode_field /srv/new uid 12');
    $this->source->night(new DateTimeImmutable('2026-10-21T23:10:00Z'), 'incr');
    ($this->told)(0, 'adopt', $this->scratch->at('images'), "--as={$this->name}", '--kind=machine');
    while ($now()['at'] === $before) {
        expect($machine->isOn())->toBeTrue($machine->screen())->and($now()['because'])->toBeNull();
        usleep(500_000);
    }
    expect($machine->screen())->toContain('less vda 2')->toContain('This machine waits for what changes');

    $this->source->day(new DateTimeImmutable('2026-10-22'));
    $this->source->night(new DateTimeImmutable('2026-10-22T23:10:00Z'), 'incr');
    ($this->told)(0, 'adopt', $this->scratch->at('images'), "--as={$this->name}", '--kind=machine');
    $last = ($this->told)(0, 'medium', 'switch', $enrolment);
    expect(array_unique(array_column($last['checks'], 'result')))->toBe(['passed'])->and($last['point'])->toContain('20261022');
    ($this->untilOff)();
    foreach ([$machine->disk('A').'?offset='.(25 << 20) => $root, $machine->disk('B') => $this->source->disk('data')] as $is => $was) {
        expect((new Process(['e2fsck', '-fn', $is]))->run())->toBe(0);
        $all = fn (string $disk): string => (new Process(['debugfs', '-R', 'ls -l /srv', $disk]))->mustRun()->getOutput();
        $names = fn (string $said): array => preg_match_all('/^ *\d+ +(\d+) .*? (\d+) +\d+ +(\d+) .* (\S+)$/m', $said, $m) > 0
            ? array_map(null, $m[1], $m[2], $m[4]) : [];
        expect($names($all((string) $is)))->toEqualCanonicalizing($names($all($was)));
    }
    expect($now()['state'])->toContain('is over');
})->group('deep');

it('lays out a disk with sectors of 4 KiB, and says before what cannot lie there', function (): void {
    $name = "{$this->name}-k";
    $run = fn (array $command, string $input = ''): string => (new Process($command, null, null, $input))->mustRun()->getOutput();
    $disk = $this->scratch->folder('large')."/$name.system.full.20261020T231000Z.raw";
    $run(['truncate', '-s', '80M', $disk]);
    $run(['sfdisk', '--quiet', $disk], "label: gpt\nstart=2048, size=131072, name=root\nstart=133120, size=24576, type=S, name=rest\n");
    $this->scratch->file('tree/srv/plans', str_repeat("berth nine\n", 5000));
    $tree = $this->scratch->at('tree');
    $run(['mke2fs', '-q', '-t', 'ext4', '-b', '4096', '-L', 'kelp', '-d', $tree, '-E', 'offset='.(1 << 20), $disk, '64M']);
    $run(['truncate', '-s', '12M', $this->scratch->at('rest')]);
    $run(['mkswap', '-q', '-L', 'rest', $this->scratch->at('rest')]);
    $run(['dd', "if={$this->scratch->at('rest')}", "of=$disk", 'bs=1M', 'seek=65', 'conv=notrunc', 'status=none']);
    ($this->told)(0, 'adopt', $this->scratch->at('large'), "--as=$name", '--kind=machine');
    $was = $this->name;
    $machine = new BareMachine($this->scratch->at('gate'), ['A' => 160 << 20, 'B' => 60 << 20], sector: 4096);
    // Of what counts in smaller sectors nothing is written.
    $small = ($this->enrol)($machine);
    expect(implode(' ', ($this->told)(3, 'layout', 'propose', $was, $small, ...$this->at)['misfits']))->toContain('4096');
    $machine->cutPower();
    $this->name = $name;
    $enrolment = ($this->enrol)($machine);
    $told = ($this->told)(0, 'restore', $name, ...[...$this->at, "--to-metal=$enrolment", '--erase=A']);
    expect(array_unique(array_column($told['checks'], 'result')))->toBe(['passed'])
        ->and($told['checks'][0]['detail'])->toContain('with content, owner, mode, time');
    ($this->untilOff)();
    // fdisk of util-linux, which is told how large its sectors are, and the kernel of a medium that is started there again.
    expect($run(['fdisk', '-b', '4096', '--bytes', '-l', $machine->disk('A')]))->toMatch('/1 +256 +\d+ +\d+ +\d+ Linux filesystem/');
    ($this->enrol)($machine);
    $seen = array_column(($this->told)(0, 'enrolled')['enrolled'][0]['machine']['disks'], null, 'name')['vda'];
    expect($seen['sector'])->toBe(4096)->and(implode(' ', $seen['marks']))->toContain('ext4 kelp')->toContain('swap rest');
})->group('deep');

it('finds its desk by the name that the network has for it, where it is not where the medium was made for', function (): void {
    // A server of names (RFC 1035) that knows one, and a view of this machine in which it is asked.
    $server = new Process([PHP_BINARY, '-r', <<<'PHP'
        $socket = stream_socket_server('udp://127.0.0.77:53', flags: STREAM_SERVER_BIND);
        while (($asked = stream_socket_recvfrom($socket, 512, 0, $from)) !== false) {
            $question = substr($asked, 12, strpos($asked, "\0", 12) - 12 + 5);
            $isIt = str_starts_with($question, "\x0ckaiseki-desk\x07harbour\x07example\0\0\1");
            $answer = "\xc0\x0c\0\1\0\1\0\0\0\x3c\0\4\x0a\0\2\2";
            stream_socket_sendto($socket, substr($asked, 0, 2).($isIt ? "\x85\x80" : "\x85\x83")."\0\1\0".chr((int) $isIt)."\0\0\0\0".
                $question.($isIt ? $answer : ''), 0, $from);
        }
        PHP]);
    $server->setTimeout(null)->start();
    $names = $this->scratch->file('resolv.conf', "nameserver 127.0.0.77\n");
    $within = ['unshare', '--mount', '--', 'sh', '-c', 'mount --bind "$0" /etc/resolv.conf && exec "$@"', $names];
    $machine = new BareMachine($this->scratch->at('gate'), ['A' => 100 << 20], domain: 'harbour.example', within: $within);
    $port = explode(':', $this->desk)[1];
    try {
        $this->desk = "10.0.2.9:$port"; // nobody is there
        $enrolment = ($this->enrol)($machine);
        expect($machine->screen())->toContain('The desk at 10.0.2.9')
            ->toContain('On this network the name kaiseki-desk leads to 10.0.2.2')
            ->and($enrolment)->toBe((string) ($this->told)(0, 'enrolled')['enrolled'][0]['enrolment']);
    } finally {
        $server->stop(0);
    }
})->group('deep');

it('never takes a disk for right that could not be written somewhere', function (string $where, array $sectors): void {
    $machine = new BareMachine($this->scratch->at('gate'), ['A' => 100 << 20, 'B' => 40 << 20], broken: ['A' => $sectors]);
    $enrolment = ($this->enrol)($machine);
    $answer = Instance::kaiseki('restore', $this->name, ...[...$this->at, "--to-metal=$enrolment", '--erase=A', '--erase=B', '--json']);
    $told = $answer->json();
    // What the kernel could not write it may not tell at once: then it is what is read again that is another.
    $failed = array_filter($told['checks'] ?? [], fn (array $check): bool => $check['result'] === 'failed');
    expect($answer->code)->toBe(4, $answer->text)
        ->and(isset($told['error']) || $failed !== [])->toBeTrue($answer->text)
        ->and($told['error'] ?? 'The medium stopped')->toContain('The medium stopped');
    ($this->untilOff)();
})->with([['its table', [2]], ['an image', [20_000]], ['the files', range(52_000, 90_000, 128)]])->group('deep');
