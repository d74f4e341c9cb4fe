<?php

declare(strict_types=1);

use App\Instance;
use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Models\Run;
use App\Models\Workload;
use App\Sets\Points;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\UnableToRestore;
use Tests\Support\Disks;
use Tests\Support\Machine;

/*
 * qemu-img of QEMU 7.2 makes the chains and reads back the images: another program than ours says what each point holds.
 */

const SETS = ['berth.full.20261001T020000Z', 'berth.incr.20261002T020000Z', 'berth.incr.20261003T020000Z'];

it('takes a folder of chains in, the disks of one moment as one set', function (): void {
    $machine = new Machine($this->scratch(), ['system' => 3 << 20, 'data' => 5 << 20]);
    $machine->set('full', ['system' => [['17', 0, 700_000]]]);
    $machine->set('incr', ['data' => [['35', 4 << 20, 4096]]]);
    $answer = $this->kaiseki('adopt', $machine->folder, '--as=berth', '--kind=machine', '--json');
    expect($answer->code)
        ->toBe(0)
        ->and(array_column($answer->json()['sets'], 'base', 'set'))
        ->toBe([SETS[0] => null, SETS[1] => SETS[0]])
        ->and($answer->json()['refused'])
        ->toBe([]);
    $points = $this->kaiseki('points', 'berth', '--json')->json()['points'];
    expect(array_column($points, 'usable'))
        ->toBe(['whole', 'whole'])
        ->and(array_column($points, 'base_assumed'))
        ->toBe([false, false]);
});

it('writes every point in every format, and qemu-img reads the same out of it', function (string $format, string $ending): void {
    $machine = Machine::taken($this);
    foreach (SETS as $i => $set) {
        $to = $this->scratch()->at("out-$i");
        $answer = $this->kaiseki('restore', 'berth', "--point=$set", "--to=$to", "--format=$format", '--json');
        expect($answer->code)
            ->toBe(0, $answer->text)
            ->and(array_unique(array_column($answer->json()['checks'], 'result')))
            ->toBe(['passed']);
        foreach (['system', 'data'] as $disk) {
            $back = $this->scratch()->at('back.raw');
            Disks::qemu('qemu-img', 'convert', '-f', $format, '-O', 'raw', "$to/berth.$disk.$ending", $back);
            expect(hash_file('sha256', $back))->toBe($machine->digest($set, $disk));
        }
        $left = array_values(array_diff(scandir($to) ?: [], ['.', '..']));
        $lists = $format === 'raw' ? ['berth.data.raw.blocks', 'berth.system.raw.blocks'] : [];
        $expected = ['berth.b2sum', 'berth.settings.txt', "berth.data.$ending", "berth.system.$ending", ...$lists];
        sort($expected);
        expect($left)->toBe($expected);
        $this->scratch()->run('sh', '-c', 'cd "$0" && b2sum --length=256 --check --strict berth.b2sum', $to);
    }
})->with([['raw', 'raw'], ['qcow2', 'qcow2'], ['vpc', 'vhd'], ['vhdx', 'vhdx'], ['vmdk', 'vmdk']]);

it('lists the blocks of a raw image so that anybody can compare them', function (): void {
    Machine::taken($this);
    $to = $this->scratch()->at('out');
    $this->kaiseki('restore', 'berth', '--at=2026-10-09T00:00:00Z', "--to=$to", '--disk=data');
    $lines = file("$to/berth.data.raw.blocks", FILE_IGNORE_NEW_LINES) ?: [];
    expect(count($lines))->toBe(17);
    foreach ($lines as $line) {
        [$from, $length, $digest] = explode(' ', $line);
        $this->scratch()->file('block', (string) file_get_contents("$to/berth.data.raw", false, null, (int) $from, (int) $length));
        expect(substr($this->scratch()->run('b2sum', '--length=256', 'block'), 0, 64))->toBe($digest);
    }
});

it('writes one disk, says beforehand what it would do, and writes over nothing', function (): void {
    $machine = Machine::taken($this);
    $to = $this->scratch()->at('out');
    $dry = $this->kaiseki('restore', 'berth', '--at=2026-10-02T12:00:00Z', "--to=$to", '--disk=data', '--dry-run', '--json');
    expect($dry->code)
        ->toBe(0)
        ->and($dry->json()['point'])
        ->toBe(SETS[1])
        ->and($dry->json()['blockers'])
        ->toBe([])
        ->and(is_dir($to))
        ->toBeFalse();
    expect($this->kaiseki('restore', 'berth', '--at=2026-10-02T12:00:00Z', "--to=$to", '--disk=data')->code)
        ->toBe(0)
        ->and(hash_file('sha256', "$to/berth.data.raw"))
        ->toBe($machine->digest(SETS[1], 'data'))
        ->and(is_file("$to/berth.system.raw"))
        ->toBeFalse();
    $again = $this->kaiseki('restore', 'berth', '--at=2026-10-02T12:00:00Z', "--to=$to", '--disk=data', '--json');
    expect($again->code)->toBe(3)->and($again->json()['error'])->toContain('berth.data.raw already');
    expect($this->kaiseki('restore', 'berth', '--at=2026-10-02T12:00:00Z', "--to=$to", '--disk=sdz')->code)->toBe(2);
});

it('removes what it wrote when it is put back, but nothing that was changed since', function (): void {
    Machine::taken($this);
    $to = $this->scratch()->at('out');
    $run = (int) $this->kaiseki('restore', 'berth', '--at=2026-10-09T00:00:00Z', "--to=$to", '--json')->json()['run'];
    file_put_contents("$to/berth.data.raw", 'x', FILE_APPEND);
    $answer = $this->kaiseki('put-back', (string) $run, '--json');
    expect(array_column($answer->json()['left'], 'path'))
        ->toBe(['berth.data.raw'])
        ->and(is_file("$to/berth.system.raw"))
        ->toBeFalse()
        ->and(is_file("$to/berth.data.raw"))
        ->toBeTrue();
});

it('reads what is damaged from a second copy, and a lost increment\'s blocks from wherever else they lie', function (): void {
    $machine = Machine::taken($this);
    // The same images a second time, as somebody keeps them elsewhere: a later full that holds what the lost ones held.
    $digest = $machine->digest(SETS[2], 'system');
    $again = new Machine($this->scratch(), ['system' => 3 << 20, 'data' => 5 << 20], 'elsewhere');
    Disks::qemu(
        'qemu-img',
        'convert',
        '-f',
        'qcow2',
        '-O',
        'qcow2',
        $machine->image(SETS[2], 'system'),
        "{$again->folder}/later.system.full.20261004T020000Z.qcow2",
    );
    $this->kaiseki('adopt', $again->folder, '--as=berth', '--kind=machine');
    unlink($machine->image(SETS[0], 'system'));
    $points = $this->kaiseki('points', 'berth', '--json')->json()['points'];
    expect(array_column($points, 'usable', 'set')[SETS[2]])->toBe('whole');
    $to = $this->scratch()->at('out');
    $answer = $this->kaiseki('restore', 'berth', '--point='.SETS[2], "--to=$to", '--disk=system', '--json');
    expect($answer->code)
        ->toBe(0, $answer->text)
        ->and($answer->json()['disks'][0]['bridged'])
        ->toBeGreaterThan(0)
        ->and(hash_file('sha256', "$to/berth.system.raw"))
        ->toBe($digest);
});

it('gives a point in part only if that is said, with zeros where nothing can be had, and lists them', function (): void {
    $machine = Machine::taken($this);
    unlink($machine->image(SETS[0], 'data'));
    $usable = array_column($this->kaiseki('points', 'berth', '--json')->json()['points'], 'usable', 'set');
    expect($usable)->toBe([SETS[0] => 'part', SETS[1] => 'part', SETS[2] => 'part']);
    $to = $this->scratch()->at('out');
    $refused = $this->kaiseki('restore', 'berth', '--at=2026-10-09T00:00:00Z', "--to=$to", '--json');
    expect($refused->code)->toBe(3)->and($refused->json()['error'])->toContain('--part');
    $answer = $this->kaiseki('restore', 'berth', '--at=2026-10-09T00:00:00Z', "--to=$to", '--disk=data', '--part', '--json');
    expect($answer->code)
        ->toBe(4)
        ->and($answer->json()['disks'][0]['missing'])
        ->toBe(16)
        ->and($answer->json()['disks'][0]['missing_at'][0])
        ->toBe(1 << 20)
        ->and(file_get_contents("$to/berth.data.raw", false, null, 4 << 20, 4096))
        ->toBe(str_repeat("\x23", 4096));
    // The other disk is whole.
    expect($this->kaiseki('restore', 'berth', '--point='.SETS[2], "--to=$to", '--disk=system', '--json')->code)->toBe(3);
});

it('finds bits that were flipped in a store, and gives nothing that is not right', function (): void {
    $machine = Machine::taken($this);
    $image = $machine->image(SETS[1], 'data');
    $bytes = (string) file_get_contents($image);
    $bytes[(int) strpos($bytes, str_repeat("\x23", 4096)) + 70] = "\x22";
    file_put_contents($image, $bytes);
    $to = $this->scratch()->at('out');
    $answer = $this->kaiseki('restore', 'berth', '--at=2026-10-09T00:00:00Z', "--to=$to", '--disk=data', '--json');
    expect($answer->code)
        ->toBe(4)
        ->and($answer->json()['error'])
        ->toContain('could not be read from any copy')
        ->and(glob("$to/*"))
        ->toBe([])
        ->and(glob("$to/.kaiseki*"))
        ->toBe([]);
    expect(Run::query()->value('state'))->toBe('failed');
});

it('says what a chain rests on by its own names, else by the rule, and opens nothing that an image names', function (): void {
    $machine = new Machine($this->scratch(), ['disk' => 1 << 20]);
    $machine->set('full', ['disk' => [['17', 0, 65536]]]);
    $incr = $machine->set('incr', ['disk' => [['18', 65536, 65536]]]);
    Disks::qemu('qemu-img', 'rebase', '-u', '-f', 'qcow2', '-F', 'raw', '-b', '/etc/shadow', $machine->image($incr, 'disk'));
    $answer = $this->kaiseki('adopt', $machine->folder, '--as=berth', '--kind=machine', '--json');
    $sets = array_column($answer->json()['sets'], null, 'set');
    expect($sets[$incr]['base'])
        ->toBe(SETS[0])
        ->and($sets[$incr]['remarks'])
        ->toBe([
            'The image of disk names /etc/shadow as what it rests on, which is no image of this machine here, and was not opened.',
            'That it rests on '.SETS[0].' is assumed.',
        ]);
    expect(array_column($this->kaiseki('points', 'berth', '--json')->json()['points'], 'base_assumed'))->toBe([false, true]);
});

it('refuses what is no image, one that names itself a full and is none, and a truncated one', function (): void {
    $machine = new Machine($this->scratch(), ['disk' => 1 << 20]);
    $machine->set('full', ['disk' => [['17', 0, 65536]]]);
    $cut = $machine->set('incr', ['disk' => [['18', 0, 300_000]]]);
    file_put_contents($machine->image($cut, 'disk'), substr((string) file_get_contents($machine->image($cut, 'disk')), 0, 300_000));
    $this->scratch()->file('images/berth.disk.full.20261005T020000Z.qcow2', 'nothing of the kind');
    $this->scratch()->file('images/readme.txt', 'hello');
    $base = basename($machine->image(SETS[0], 'disk'));
    Disks::qemu(
        'qemu-img',
        'create',
        '-q',
        '-f',
        'qcow2',
        '-b',
        $base,
        '-F',
        'qcow2',
        "{$machine->folder}/berth.disk.full.20261006T020000Z.qcow2",
    );
    $answer = $this->kaiseki('adopt', $machine->folder, '--as=berth', '--kind=machine', '--json');
    $because = array_column($answer->json()['refused'], 'because', 'file');
    expect($because['berth.disk.incr.20261002T020000Z.qcow2'])
        ->toContain('it is damaged')
        ->and($because['berth.disk.full.20261005T020000Z.qcow2'])
        ->toContain('is no qcow2 image')
        ->and($because['berth.disk.full.20261006T020000Z.qcow2'])
        ->toBe("it is named a full, and rests on another image: $base")
        ->and($because['readme.txt'])
        ->toContain('does not fit the pattern')
        ->and(array_column($answer->json()['sets'], 'set'))
        ->toBe([SETS[0]]);
});

it('gives a hand sheet by which a person has the same with qemu-img, whatever the names in the images say', function (): void {
    $machine = Machine::taken($this);
    $digest = $machine->digest(SETS[2], 'system');
    Disks::qemu('qemu-img', 'rebase', '-u', '-f', 'qcow2', '-F', 'raw', '-b', '/etc/shadow', $machine->image(SETS[2], 'system'));
    // What it is about is the same; the file is not, and the sheet would say so.
    $sheet = $this->kaiseki('hand-sheet', 'berth', '--at=2026-10-09T00:00:00Z')->text;
    $file = $this->scratch()->file('sheet.sh', preg_replace('/^printf .*incr\.20261003.*$/m', '', $sheet) ?? '');
    $this->scratch()->run('sh', $file, $this->scratch()->folder('by-hand'));
    expect(hash_file('sha256', $this->scratch()->at('by-hand/berth.system.raw')))->toBe($digest);
    file_put_contents($machine->image(SETS[0], 'data'), 'x', FILE_APPEND);
    expect(fn () => $this->scratch()->run('sh', $file, $this->scratch()->folder('again')))->toThrow(RuntimeException::class);
});

it('begins anew after its process was killed, and leaves nothing of the attempt before', function (): void {
    $machine = Machine::taken($this);
    $to = $this->scratch()->folder('out');
    $this->kaiseki('restore', 'berth', '--at=2026-10-09T00:00:00Z', "--to=$to/first", '--disk=system');
    $run = Run::query()
        ->firstOrFail()
        ->replicate(['state', 'outcome', 'started_at', 'ended_at', 'worker']);
    // As a worker leaves it that was killed while it wrote: at work, by a process that is gone, with half an image in its staging.
    $plan = ['folder' => rawurlencode($to)] + $run->plan;
    $run->fill(['state' => 'running', 'worker' => gethostname().':999999999:1', 'plan' => $plan])->save();
    $this->scratch()->file("out/.kaiseki-staging-{$run->id}/berth.system.raw", 'half of it');
    (new MachineCarrier)->carryOut($run->refresh());
    expect($run->refresh()->state)
        ->toBe('done', (string) $run->failure)
        ->and(hash_file('sha256', "$to/berth.system.raw"))
        ->toBe($machine->digest(SETS[2], 'system'))
        ->and(glob("$to/.kaiseki*"))
        ->toBe([])
        ->and(glob(Instance::path('tmp/machine-run-*')))
        ->toBe([]);
});

it('stops where its volume is full, and leaves what was there', function (): void {
    Machine::taken($this);
    $small = $this->scratch()->folder('small');
    $this->scratch()->run('mount', '-t', 'tmpfs', '-o', 'size=900k', 'tmpfs', $small);
    try {
        file_put_contents("$small/there", 'before');
        $told = $this->kaiseki('restore', 'berth', '--at=2026-10-09T00:00:00Z', "--to=$small", '--json');
        expect($told->code)->toBe(3)->and($told->json()['error'])->toContain('There is room for');
        // Room that is there when it is looked at, and gone when it is needed.
        $points = new Points(Workload::query()->firstOrFail());
        $disk = DiskOfPoint::of($points, $points->set(SETS[2]) ?? throw new LogicException('no set'), 'data');
        $file = FolderBelow::open($small)->createFile('berth.data.raw');
        expect(fn () => $disk?->copy()->to($file))->toThrow(UnableToRestore::class);
        expect(file_get_contents("$small/there"))->toBe('before');
    } finally {
        $this->scratch()->run('umount', '--lazy', $small); // the file is still open
    }
});

it('takes images of other formats in by the ending of their names', function (string $format, string $ending): void {
    $machine = new Machine($this->scratch(), ['disk' => 3 << 20]);
    $set = $machine->set('full', ['disk' => [['17', 0, 700_000], ['34', 2 << 20, 4096]]]);
    $folder = $this->scratch()->folder('others');
    Disks::qemu(
        'qemu-img',
        'convert',
        '-f',
        'qcow2',
        '-O',
        $format,
        $machine->image($set, 'disk'),
        "$folder/b.full.20261001T020000Z.$ending",
    );
    expect($this->kaiseki('adopt', $folder, '--as=berth', '--kind=machine')->code)->toBe(0);
    $answer = $this->kaiseki('restore', 'berth', '--at=2026-10-09T00:00:00Z', '--to='.$this->scratch()->at('out'), '--json');
    expect($answer->code)->toBe(0, $answer->text);
    $out = (string) file_get_contents($this->scratch()->at('out/berth.disk.raw'));
    // A vhd may be a little longer than its disk was.
    expect(hash('sha256', substr($out, 0, 3 << 20)))
        ->toBe($machine->digest($set, 'disk'))
        ->and(trim(substr($out, 3 << 20), "\0"))
        ->toBe('');
})->with([['vpc', 'vhd'], ['vhdx', 'vhdx'], ['vmdk', 'vmdk'], ['raw', 'img']]);
