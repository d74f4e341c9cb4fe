<?php

declare(strict_types=1);

use App\Models\Run;
use Kaiseki\StandIns\SorrelSoundMachine;
use Symfony\Component\Process\Process;
use Tests\Support\Guest;
use Tests\Support\HypervisorAtWork;

/*
 * Files into a machine that runs, by its agent: a real Linux machine with busybox's tools. What is in it afterwards is read by debugfs from
 * its disk, once it is off, and compared with what debugfs reads from the set's.
 */

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
});

afterEach(function (): void {
    unset($this->hypervisor);
    $this->host->remove();
    expect($this->host->left())->toBe([]);
});

/** What a shell in the machine says. */
function saidIn(mixed $test, string $script): string
{
    return $test->hypervisor->runInside('planner', ['sh', '-c', $script], 60)->output;
}

/** Each file below a folder of the root file system of a disk, as debugfs has it: mode, owner, size, and its content's digest. */
function listedBy(mixed $test, string $raw, string $folder): array
{
    $root = $test->scratch()->at('root.ext4');
    (new Process(['dd', "if=$raw", "of=$root", 'bs=1M', 'skip=25', 'status=none']))->mustRun();
    $out = $test->scratch()->folder('out'.bin2hex(random_bytes(3)));
    (new Process(['debugfs', '-R', "rdump $folder $out", $root]))->mustRun();
    $facts = ['find', '.', '-type', 'f', '-printf', '%P %m %U %G %s %Ts ', '-exec', 'sha256sum', '{}', ';'];
    $find = new Process($facts, "$out/".basename($folder));
    $lines = explode("\n", trim($find->mustRun()->getOutput()));
    sort($lines);

    return $lines;
}

it('brings files into a machine that runs, with owners, modes and times, and takes them out again', function (): void {
    $images = $this->scratch()->at('images');
    $machine = new SorrelSoundMachine($this->scratch()->at('work'), $images, 'planner', Guest::system());
    $machine->begin(new DateTimeImmutable('2026-10-20'));
    (new Process(['debugfs', '-w', '-f', '-', $machine->disk('system').'?offset='.(25 << 20)], null, null, implode("\n", [
        'mkdir /srv/crew', 'mkdir "/srv/crew/night shift"', 'symlink /srv/crew/now /srv/today.csv',
        'write /etc/hostname /srv/crew/$(id)', 'set_inode_field /srv/crew/$(id) uid 1234', 'set_inode_field /srv/crew/$(id) gid 77',
        'set_inode_field /srv/crew/$(id) mode 0100640',
        'set_inode_field /srv/crew/$(id) mtime @1500000000',
        'write /etc/services "/srv/crew/-rf ; *"',
        'set_inode_field /srv/crew mtime @1400000000', 'set_inode_field /srv/crew mode 040750',
    ])."\n"))->mustRun();
    $machine->night(new DateTimeImmutable('2026-10-20T23:10:00Z'), 'full');
    $this->kaiseki('adopt', $images, '--as=planner', '--kind=machine');
    $at = ['restore', 'planner', '--at=2026-10-21T12:00:00Z', '--on=ketch'];
    $this->told(0, ...[...$at, '--whole']);
    $crew = [...$at, '--path=/system.2/srv/crew', '--into=planner'];
    $this->hypervisor->start('planner');
    $noAgent = $this->kaiseki(...[...$crew, '--to=/var', '--json']);
    expect([$noAgent->code, $noAgent->text])->toBe([4, $noAgent->text])->and($noAgent->text)->toContain('no agent');
    while (! str_contains($this->hypervisor->serial('planner'), 'planner serves')) {
        usleep(200_000);
    }
    // To where it lay: the machine says where it has mounted the file system of that UUID.
    $own = $this->told(0, ...[...$crew, '--conflict=replace']);
    $moved = Run::query()->find($own['run'])->outcome['moved']['crew'];
    expect([$moved['at'], saidIn($this, 'cat /srv/crew/\\$\(id\)')])->toBe(['/srv/crew', file_get_contents('/etc/hostname')])
        ->and(saidIn($this, 'ls -d /srv/crew*'))->toBe("{$moved['at']}\n{$moved['aside']}\n");
    $this->told(0, 'put-back', (string) $own['run']);
    $plan = $this->told(0, ...[...$at, '--path=/data/plans', '--into=planner', '--conflict=missing-only']);
    expect(array_column($plan['left_out'], 'path'))->toBe(['/data/plans']);
    expect($this->told(3, ...[...$crew, '--path=/data/plans'])['error'])->toContain('one after the other')
        ->and($this->told(4, ...[...$at, '--path=/system.1/vmlinuz', '--into=planner'])['error'])->toContain('has not mounted');
    expect($this->told(4, ...[...$crew, '--to=/no/such'])['error'])->toContain('has no folder /no/such');

    $told = $this->told(0, ...[...$crew, '--to=/var']);
    expect([$told['landed_in'], $told['files'], array_column($told['checks'], 'result')])->toBe(['planner', 3, ['passed']])
        ->and(saidIn($this, 'stat -c "%a %u %g %Y" "/var/crew/$(echo \'$(id)\')" && readlink /var/crew/now && stat -c "%a %Y" /var/crew'))
        ->toBe("640 1234 77 1500000000\n/srv/today.csv\n750 1400000000\n")
        ->and(saidIn($this, 'ls -A /var | grep kaiseki'))->toBe('');

    // On a disk that is plugged in for that, which is gone again; and by its agent where none can be.
    config(['machines.plugs_from' => 1]);
    $how = fn (array $told): string => (string) Run::query()->find($told['run'])->steps()->where('name', 'send them')->value('detail');
    $plugged = $this->told(0, ...[...$at, '--path=/system.2/etc', '--path=/system.2/srv/crew', '--into=planner', '--to=/data']);
    expect($how($plugged))->toContain('on a disk that was plugged in')
        ->and(saidIn($this, 'ls /sys/block | grep -c "^vd"; cat /sys/block/*/serial | grep kaiseki'))->toBe("2\n")
        ->and(array_keys($this->hypervisor->machines()))->toBe(['planner'])
        ->and(saidIn($this, 'ls /data | grep -e crew'))->toBe("crew\n");
    $this->told(0, 'put-back', (string) $plugged['run']);
    $facts = json_decode((string) file_get_contents("{$this->host->folder}/host.json"), true);
    $full = ['storages' => array_map(fn (): int => 1, $facts['storages'])] + $facts;
    file_put_contents("{$this->host->folder}/host.json", json_encode($full));
    $byAgent = $this->told(0, ...[...$crew, '--to=/data']);
    expect($how($byAgent))->toContain('by its agent, since no storage has room');
    $this->told(0, 'put-back', (string) $byAgent['run']);
    file_put_contents("{$this->host->folder}/host.json", json_encode($facts));
    config(['machines.plugs_from' => 4 << 20]);

    // One thing that is no folder, and one that holds nothing.
    $one = $this->told(0, ...[...$at, '--path=/system.2/etc/hostname', '--path=/system.2/srv/crew/now', '--into=planner', '--to=/var']);
    expect([$one['files'], saidIn($this, 'cat /var/hostname; readlink /var/now')])->toBe([2, "planner\n/srv/today.csv\n"]);
    $this->told(0, 'put-back', (string) $one['run']);

    // A second time: beside, in its place with what stood there aside, or not at all.
    $beside = $this->told(0, ...[...$crew, '--to=/var']);
    $replaced = $this->told(0, ...[...$crew, '--to=/var', '--conflict=replace']);
    expect($this->told(0, ...[...$crew, '--to=/var', '--conflict=missing-only'])['left_out'][0]['because'])->toBe('it is there')
        ->and(substr_count(saidIn($this, 'ls -d /var/crew*'), "\n"))->toBe(3);

    // Somebody changed something since.
    saidIn($this, 'echo more >>/var/crew/now.txt');
    expect($this->told(4, 'put-back', (string) $replaced['run'])['left'][0]['because'])->toBe('changed since');
    saidIn($this, 'rm /var/crew/now.txt; touch -d @1400000000 /var/crew');
    $this->told(0, 'put-back', (string) $replaced['run']);
    $this->told(0, 'put-back', (string) $beside['run']);
    expect(saidIn($this, 'ls -d /var/crew*'))->toBe("/var/crew\n");

    // One that was cut off goes on: what it had moved is known.
    $run = Run::query()->find($told['run']);
    $run->update(['state' => 'failed', 'ended_at' => now()]);
    $this->told(0, 'resume', (string) $run->id);
    expect(saidIn($this, 'ls -d /var/crew* /var/.k*'))->toContain("/var/crew\n")->not->toContain('kaiseki');

    // It runs full: nothing is left half.
    $free = (int) trim(saidIn($this, 'df -kP /data | tail -n 1 | tr -s " " | cut -d " " -f 4'));
    saidIn($this, 'dd if=/dev/zero of=/data/full bs=1k count='.($free - 400).' 2>/dev/null');
    expect($this->told(4, ...[...$crew, '--to=/data'])['error'])->toContain('are needed')
        ->and(saidIn($this, 'ls -A /data'))->not->toContain('crew');

    $this->hypervisor->stop('planner', false);
    while ($this->hypervisor->machine('planner')->isRunning()) {
        usleep(100_000);
    }
    $now = $this->scratch()->at('now.raw');
    file_put_contents($now, HypervisorAtWork::content($this->hypervisor, 'planner', 'system'));
    expect(listedBy($this, $now, '/var/crew'))->toBe(listedBy($this, $machine->disk('system'), '/srv/crew'));
});
