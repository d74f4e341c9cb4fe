<?php

declare(strict_types=1);

use App\Kinds\Machines\Order\MachineSheet;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Workload;
use Symfony\Component\Process\Process;
use Tests\Support\Disks;
use Tests\Support\Machine;
use Tests\Support\NtfsVolume;

/*
 * mke2fs -d and debugfs of e2fsprogs make what is in the disks, sfdisk their tables, qemu-img the chain; diff(1) compares what comes out
 * with the tree that was put in.
 */

it('lists what lies in a machine, volume by volume, as of each point', function (): void {
    Machine::withFiles($this);
    $top = $this->kaiseki('browse', 'planner', '--at=2026-10-09T00:00:00Z', '--json')->json();
    expect(array_column($top['entries'], 'file_system', 'name'))
        ->toBe(['disk.1' => null, 'disk.2' => 'ext4'])
        ->and(array_column($top['entries'], 'label', 'name')['disk.2'])
        ->toBe('root');
    $plans = fn (string $at): array => array_column(
        $this->kaiseki('browse', 'planner', "--at=$at", '--path=/disk.2/srv/plans', '--json')->json()['entries'],
        'size',
        'name',
    );
    expect($plans('2026-10-01T12:00:00Z'))
        ->toHaveCount(60)
        ->and($plans('2026-10-01T12:00:00Z')['plan 7.csv'])
        ->toBe(8 * 280)
        ->and($plans('2026-10-09T00:00:00Z'))
        ->toHaveCount(59);
    expect($this->kaiseki('browse', 'planner', '--at=2026-10-09T00:00:00Z', '--path=/disk.1')->code)
        ->toBe(3)
        ->and($this->kaiseki('browse', 'planner', '--at=2026-10-09T00:00:00Z', '--path=/disk.2/nowhere')->code)
        ->toBe(3);
});

it('brings files out of it as they were: contents, modes, times, links', function (): void {
    $tree = Machine::withFiles($this);
    $to = $this->scratch()->at('out');
    $answer = $this->kaiseki('restore', 'planner', '--at=2026-10-01T12:00:00Z', '--path=/disk.2', "--to=$to", '--json');
    expect($answer->code)->toBe(0, $answer->text)->and($answer->json()['files'])->toBe(63);
    (new Process(['rmdir', "$to/disk.2/lost+found"]))->mustRun();
    $this->scratch()->run('diff', '-r', '--no-dereference', $tree, "$to/disk.2");
    expect(fileperms("$to/disk.2/etc/machine-id") & 07777)
        ->toBe(0440)
        ->and(filemtime("$to/disk.2/srv/plans/plan 1.csv"))
        ->toBe(filemtime("$tree/srv/plans/plan 1.csv"))
        ->and(stat("$to/disk.2/bin/large")['nlink'])
        ->toBe(2)
        ->and(readlink("$to/disk.2/srv/id"))
        ->toBe('../etc/machine-id');
    $lists = fn (string $at): string => $this->scratch()->run('sh', '-c', 'cd "$1" && find srv | sort | getfacl -P -', 'sh', $at);
    expect($lists("$to/disk.2"))->toBe($lists($tree))->and($answer->json()['left_out'])->toBe([]);
    // As of the day after, one folder, beside what is there.
    $this->kaiseki('restore', 'planner', '--at=2026-10-09T00:00:00Z', '--path=/disk.2/etc', "--to=$to", '--conflict=replace', '--json');
    expect(file_get_contents("$to/disk.2/etc/machine-id"))->toBe("other\n");
    $back = $this->kaiseki('put-back', (string) Run::query()->max('id'), '--json');
    expect($back->code)->toBe(0)->and(file_get_contents("$to/disk.2/etc/machine-id"))->toBe("4be1\n");
});

it('says beforehand what would come, and refuses what is not there', function (): void {
    Machine::withFiles($this);
    $to = $this->scratch()->at('out');
    $dry = $this->kaiseki('restore', 'planner', '--at=2026-10-09T00:00:00Z', '--path=/disk.2/srv', "--to=$to", '--dry-run', '--json');
    expect($dry->code)->toBe(0)
        ->and($dry->json()['entries'])->toBe(63) // the volume, srv, plans, 59 of them, and a link
        ->and(is_dir($to))->toBeFalse();
    foreach (['/disk.2/nowhere', '/disk.9/srv', '/disk.1'] as $path) {
        expect($this->kaiseki('restore', 'planner', '--at=2026-10-09T00:00:00Z', "--path=$path", "--to=$to")->code)->toBe(3);
    }
    $odd = $this->kaiseki('restore', 'planner', '--at=2026-10-09T00:00:00Z', '--path=/disk.2', "--to=$to", '--conflict=perhaps');
    expect($odd->code)->toBe(2)
        ->and(Run::query()->count())->toBe(0)
        ->and(is_dir($to))->toBeFalse();
});

it('gives the rest, and says what it cannot, where blocks of the chain are damaged', function (): void {
    Machine::withFiles($this);
    $image = $this->scratch()->at('images/planner.disk.full.20261001T020000Z.qcow2');
    $bytes = (string) file_get_contents($image);
    $at = (int) strpos($bytes, str_repeat("berth,60\n", 40));
    expect($at)->toBeGreaterThan(0);
    $bytes[$at + 100] = '!';
    file_put_contents($image, $bytes);
    $to = $this->scratch()->at('out');
    $answer = $this->kaiseki('restore', 'planner', '--at=2026-10-01T12:00:00Z', '--path=/disk.2/srv', "--to=$to", '--json');
    expect($answer->code)->toBe(4);
    $left = array_column($answer->json()['left_out'], 'because', 'path');
    expect($left)
        ->toHaveKey('disk.2/srv/plans/plan 60.csv')
        ->and(file_get_contents("$to/disk.2/srv/plans/plan 1.csv"))
        ->toBe(str_repeat("berth,1\n", 40))
        ->and(is_file("$to/disk.2/srv/plans/plan 60.csv"))
        ->toBeFalse();
});

it('gives files of a disk that was in use as its journal has them', function (): void {
    Machine::withFiles($this);
    $raw = $this->scratch()->at('now.raw');
    $volume = "$raw?offset=".(4 << 20);
    $block = trim(Disks::qemu('debugfs', '-R', 'blocks /etc/machine-id', $volume));
    $new = $this->scratch()->file('journaled', str_pad('newer!', 4096, "\0"));
    (new Process(['debugfs', '-w', '-f', '-', $volume], null, null, "jo\njw -b $block $new\njc\nfeature +needs_recovery\n"))->mustRun();
    Disks::qemu(
        'qemu-img', 'convert', '-f', 'raw', '-O', 'qcow2', $raw, $this->scratch()->at('images/planner.disk.full.20261003T020000Z.qcow2'),
    );
    $this->kaiseki('adopt', $this->scratch()->at('images'), '--as=planner', '--kind=machine');
    $to = $this->scratch()->at('out');
    $answer = $this->kaiseki('restore', 'planner', '--at=2026-10-09T00:00:00Z', '--path=/disk.2/etc/machine-id', "--to=$to", '--json');
    expect($answer->json()['losses'])->toBe([])
        ->and(file_get_contents("$to/disk.2/etc/machine-id"))->toBe('newer!');
});

it('finds files in all points straight from the images, each version with its span', function (): void {
    Machine::withFiles($this);
    $find = fn (string ...$more): array => array_map(
        fn (array $found): array => [$found['path'], $found['first'], $found['until']],
        $this->kaiseki('find', 'planner', ...[...$more, '--json'])->json()['versions'],
    );
    [$first, $second] = ['2026-10-01T02:00:00Z', '2026-10-02T02:00:00Z'];
    expect($find('PLAN 7'))->toBe([['/disk.2/srv/plans/plan 7.csv', $first, $second]])
        ->and($find('machine-id'))->toBe([
            ['/disk.2/etc/machine-id', $second, null], ['/disk.2/etc/machine-id', $first, $second],
        ])
        ->and($find('machine-id', '--to=2026-10-01T20:00:00Z'))->toBe([['/disk.2/etc/machine-id', $first, null]])
        ->and($find('*', '--kind=link'))->toBe([['/disk.2/srv/id', $first, null]])
        ->and($find('--size=>1M'))->toBe([['/disk.2/bin/large', $first, null], ['/disk.2/bin/second name', $first, null]])
        ->and($find('plans/plan 1?.csv'))->toHaveCount(10)
        ->and($find('nothing called so'))->toBe([]);
    expect($this->kaiseki('find', 'planner', '--text=berth')->code)->toBe(2);

    // A point whose image is gone is told, and what was before and after it is the same file.
    unlink($this->scratch()->at('images/planner.disk.incr.20261002T020000Z.qcow2'));
    $this->kaiseki('check', 'planner');
    $told = $this->kaiseki('find', 'planner', 'plan 7', '--json')->json();
    expect($told['notes'][0])->toContain('disk.2 of planner.incr.20261002T020000Z cannot be looked into')
        ->and($told['versions'][0]['until'])->toBeNull();
});

it('has a file looked for on the worksheet, and takes it with the point that has it', function (): void {
    Machine::withFiles($this);
    $operator = $this->person(Role::Operator);
    $request = RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->value('id'), 'requester_id' => $operator->id, 'summary' => 'A plan is gone',
        'reason' => 'It is needed', 'wanted_at' => '2026-10-09 00:00:00', 'due_at' => now()->addHour(),
    ]);
    $this->actingAs($operator)->post("/requests/{$request->id}/machine/search", ['q' => ''])->assertSessionHasErrors('q');
    $this->post("/requests/{$request->id}/machine/search", ['q' => 'plan 7'])
        ->assertRedirect("/requests/{$request->id}?show=what&q=plan+7");
    $page = $this->get("/requests/{$request->id}?show=what&q=plan+7")->assertSee(['/disk.2/srv/plans/plan 7.csv', 'take']);
    preg_match('/name="version" value="([^"]+)"/', (string) $page->getContent(), $version);
    $this->post("/requests/{$request->id}/machine", ['settle' => 'files', 'version' => $version[1]])->assertSessionHasNoErrors();
    $sheet = new MachineSheet($request->refresh());
    expect($sheet->point?->name)->toBe('planner.full.20261001T020000Z')
        ->and($sheet->said->selection())->toBe(['disk.2/srv/plans/plan 7.csv']);
    $this->get("/requests/{$request->id}?show=what&q=nothing+so")->assertSee('Look at files called');
    $this->post("/requests/{$request->id}/machine", ['settle' => 'files', 'version' => '999999:x'])->assertNotFound();
});

it('looks into NTFS, brings files out of it, and finds them', function (): void {
    foreach (['plans/tide.txt' => "06:12\n", 'plans/潮汐.txt' => 'later', 'large' => random_bytes(2 << 20)] as $name => $content) {
        touch($this->scratch()->file("tree/$name", $content), 1_600_000_000);
    }
    $volume = new NtfsVolume($this->scratch(), $this->scratch()->at('tree'));
    $images = $this->scratch()->folder('images');
    Disks::qemu('qemu-img', 'convert', '-f', 'raw', '-O', 'qcow2', $volume->image, "$images/office.disk.full.20261001T020000Z.qcow2");
    $this->kaiseki('adopt', $images, '--as=office', '--kind=machine');
    $top = $this->told(0, 'browse', 'office', '--at=2026-10-09T00:00:00Z');
    expect([$top['entries'][0]['file_system'], $top['entries'][0]['label']])->toBe(['NTFS', 'Harbour']);
    $out = $this->scratch()->at('out');
    $this->told(0, 'restore', 'office', '--at=2026-10-09T00:00:00Z', '--path=/disk', "--to=$out");
    $this->scratch()->run('diff', '-r', $this->scratch()->at('tree'), "$out/disk");
    expect(filemtime("$out/disk/plans/tide.txt"))->toBe(1_600_000_000)
        ->and($this->told(0, 'find', 'office', 'tide.txt')['versions'])->toHaveCount(1);
});

it('looks into volumes of LVM over two disks, brings files out of them, and finds them', function (): void {
    $images = $this->scratch()->folder('images');
    foreach (['system', 'data'] as $disk) {
        $raw = (string) gzdecode((string) file_get_contents(dirname(__DIR__, 3)."/Fixtures/lvm/$disk.raw.gz"));
        Disks::qemu('qemu-img', 'convert', '-f', 'raw', '-O', 'qcow2', $this->scratch()->file("$disk.raw", $raw),
            "$images/harbour.$disk.full.20261001T020000Z.qcow2");
    }
    $this->kaiseki('adopt', $images, '--as=harbour', '--kind=machine');
    $top = $this->kaiseki('browse', 'harbour', '--at=2026-10-09T00:00:00Z', '--json')->json()['entries'];
    expect(array_column($top, 'file_system', 'name'))->toEqual([
        'data' => null, 'system.1' => null, 'system.2' => null,
        'harbour-root' => 'ext4', 'harbour-plans' => 'ext4', 'harbour-strips' => 'ext4',
    ]);
    expect(array_column($top, 'because', 'name')['data'])->toContain('LVM volume group');
    $out = $this->scratch()->at('out');
    $told = $this->kaiseki('restore', 'harbour', '--at=2026-10-09T00:00:00Z', '--path=/harbour-strips/srv', "--to=$out", '--json');
    expect($told->code)->toBe(0, $told->text)->and($told->json()['files'])->toBe(60)
        ->and(file_get_contents("$out/harbour-strips/srv/7.csv"))->toBe(str_repeat("strips,7\n", 70));
    expect($this->kaiseki('find', 'harbour', '7.csv', '--json')->json()['versions'])->toHaveCount(18);
});
