<?php

declare(strict_types=1);

use Kaiseki\StandIns\BareMachine;
use Kaiseki\StandIns\GateConsole;
use Symfony\Component\Process\Process;
use Tests\Support\Guest;
use Tests\Support\Instance;
use Tests\Support\Scratch;

/*
 * A physical machine whose sets come from inside, and which comes onto other disks out of them: all of it in QEMU, by nothing but the
 * network. The one that comes back must start by itself, and must not write into the history of the old one.
 */

it('sends itself, comes back onto smaller disks, starts there as itself, and does so without its desk too', function (): void {
    $scratch = new Scratch(sys_get_temp_dir());
    $desk = '10.0.2.2:'.explode(':', trim((string) file_get_contents(Instance::home().'/metal')))[1];
    $name = 'gate-'.bin2hex(random_bytes(3));
    $told = function (int $code, string ...$arguments): array {
        $answer = Instance::kaiseki(...[...$arguments, '--json']);
        expect($answer->code)->toBe($code, $answer->text);

        return $answer->json();
    };
    $until = function (BareMachine $machine, Closure $is): void {
        while (! $is()) {
            expect($machine->isOn())->toBeTrue($machine->screen());
            usleep(300_000);
        }
    };
    $made = $told(0, 'agent', 'script', $name, "--desk=$desk");
    $console = new GateConsole($scratch->at('gate'), Guest::system());
    $console->begin($made['script'], ['srv/odd $(reboot)/-rf ; *' => 'odd', 'srv/later' => 'before']);
    $spare = new BareMachine($scratch->at('spare'), ['SPARE-B' => 40 << 20, 'SPARE-A' => 110 << 20], 'uefi', 'nvme');
    try {
        $console->machine->powerOn();
        $state = fn (): string => array_column($told(0, 'agent', 'list')['agents'], 'state', 'workload')[$name];
        $until($console->machine, fn (): bool => $state() === 'asks for work');
        $told(0, 'protect', $name, '--level=full');
        $second = $told(0, 'protect', $name);
        // Its root lies on a volume group that has room: it is read from a snapshot, which is gone then.
        expect(implode("\n", $second['remarks'] ?? []))->toContain('Files of / were read from a snapshot.')
            ->toContain('Files of /srv/database were read while the machine ran, without a snapshot.')->not->toContain('No snapshot of')
            ->not->toContain('gate-root, for')->and($console->machine->screen())->not->toContain('kaiseki--agent');
        $console->machine->cutPower();
        $medium = Instance::home().'/medium';
        is_file("$medium/medium.initrd") || $told(0, 'medium', 'make', '--format=netboot', "--desk=$desk");
        $code = $told(0, 'medium', 'code', $name);
        $spare->powerOn($medium, ['desk' => $desk, 'code' => $code['code']]);
        $until($spare, fn (): bool => str_contains($spare->screen(), 'Orders were taken') || str_contains($spare->screen(), 'Enrolled'));
        $restored = $told(0, 'restore', $name, '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60), "--to-metal={$code['enrolment']}",
            '--onto=vda=nvme1n1', '--onto=vdb=nvme0n1', '--erase=SPARE-A', '--erase=SPARE-B');
        expect(array_unique(array_column($restored['checks'], 'result')))->toBe(['passed'])
            ->and(array_column($restored['checks'], 'check'))
            ->toBe(['every byte of vda.1', 'what vda.2 says of its volume group', 'what lies on vdb', 'what lies on gate-root'])
            ->and(implode("\n", $restored['next']))->toContain("agent script $name")
            ->toContain('Restore /srv/database/* from sets of its own');
        while ($spare->isOn()) {
            usleep(200_000);
        }
        // It finds its disks by NVMe, for which its initramfs has no driver: a machine of its own kind starts from them.
        $own = new BareMachine($scratch->at('spare'), ['SPARE-A' => 110 << 20, 'SPARE-B' => 40 << 20], 'uefi');
        $own->powerOn();
        $until($own, fn (): bool => str_contains($own->screen(), 'run "install" first'));
        expect($own->screen())->toContain('gate-console-2 serves')->toContain('refuses the code');
        $own->cutPower();

        // And without the desk: a medium, a disk with the store's sets and its night kit, and a person who types.
        $told(0, 'catalog', 'night-kit');
        $store = Instance::home().'/stores/boathouse';
        $sets = $scratch->folder('store/night-kit');
        copy("$store/night-kit/metal-sheet-$name.sh", "$sets/metal-sheet-$name.sh");
        (new Process(['cp', '-R', "$store/$name", $scratch->at('store')]))->mustRun();
        $fresh = new BareMachine($scratch->at('fresh'), ['FRESH-A' => 190 << 20, 'FRESH-B' => 34 << 20, 'SETS' => 250 << 20], 'uefi');
        (new Process(['mke2fs', '-q', '-t', 'ext4', '-d', $scratch->at('store'), $fresh->disk('SETS')]))->mustRun();
        $fresh->powerOn($medium, ['alone' => '1 vda vdb WRITE']);
        while ($fresh->isOn()) {
            usleep(300_000);
        }
        expect($fresh->screen())->toContain('All is done, without a desk');
        $fresh->powerOn();
        $until($fresh, fn (): bool => str_contains($fresh->screen(), 'gate-console-2 serves'));
    } finally {
        $console->machine->cutPower();
        $spare->cutPower();
        isset($own) && $own->cutPower();
        isset($fresh) && $fresh->cutPower();
        $scratch->remove();
    }
})->group('deep');

it('sends each subvolume of Btrfs that is mounted, once, and tells of those that are not', function (): void {
    $scratch = new Scratch(sys_get_temp_dir());
    $desk = '10.0.2.2:'.explode(':', trim((string) file_get_contents(Instance::home().'/metal')))[1];
    $name = 'gate-'.bin2hex(random_bytes(3));
    $told = function (string ...$arguments): array {
        $answer = Instance::kaiseki(...[...$arguments, '--json']);
        expect($answer->code)->toBe(0, $answer->text);

        return $answer->json();
    };
    $image = $scratch->file('crew.raw', (string) gzdecode((string) file_get_contents(dirname(__DIR__).'/Fixtures/btrfs/volume.raw.gz')));
    $console = new GateConsole($scratch->at('gate'), Guest::system(), $image);
    $console->begin($told('agent', 'script', $name, "--desk=$desk")['script']);
    try {
        $console->machine->powerOn();
        while (array_column($told('agent', 'list')['agents'], 'state', 'workload')[$name] !== 'asks for work') {
            expect($console->machine->isOn())->toBeTrue($console->machine->screen());
            usleep(500_000);
        }
        $set = $told('protect', $name, '--level=full');
        $remarks = implode("\n", $set['remarks'] ?? []);
        expect($remarks)->toContain('Not in it: the subvolume /srv/crew/snapshot, which is mounted nowhere.')
            ->not->toContain('/srv/crew/sub,') // it is, at /srv/sub
            ->toContain('the subvolume /srv/sub/inner, which is mounted nowhere')
            ->toContain('Not in it: vdc, for it is Btrfs, of which only files come.');
        $to = Instance::home()."/restored/$name";
        $told('restore', $name, '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60), '--path=/srv', "--to=$to");
        $read = fn (string $path): string => (string) file_get_contents("$to/srv/$path");
        expect($read('crew/tide.txt'))->toBe("High water 06:12\n")->and($read('sub/file'))->toBe("second\n")
            ->and(file_exists("$to/srv/crew/snapshot/file"))->toBeFalse()
            ->and(glob("$to/srv/again/*"))->toBe([]); // that folder is in its own place
    } finally {
        $console->machine->cutPower();
        $scratch->remove();
    }
})->group('deep');
