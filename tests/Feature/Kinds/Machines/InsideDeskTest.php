<?php

declare(strict_types=1);

use App\Jobs\CarryOutRun;
use App\Kinds\Kinds;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\MetalSources;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\Copy;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\Points;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Metal\MachineRecord;
use Kaiseki\Core\Metal\Said;
use Kaiseki\Core\Metal\TargetMachine;
use Symfony\Component\Process\Process;
use Tests\Support\SentMachine;

// A machine that sent itself: a workload of files, which the kind of machines brings onto other disks too.

beforeEach(function (): void {
    $this->sent = new SentMachine($this->scratch());
    $this->told(0, 'protect', 'gate', "--source={$this->sent->tree}", '--level=full');
    file_put_contents("{$this->sent->tree}/etc/motd", 'later');
    $this->told(0, 'protect', 'gate');
    $this->workload = Workload::query()->where('name', 'gate')->sole();
    $this->actingAs($this->operator = $this->person(Role::Operator));
    $disk = fn (string $name, int $mib, string $serial): array => [
        'name' => $name, 'bytes' => $mib << 20, 'sector' => 512, 'serial' => $serial, 'marks' => [],
    ];
    $this->bare = TargetMachine::said(Said::of([
        'firmware' => 'uefi', 'product' => 'Box', 'serial' => 'SN-1', 'memory' => 4 << 20,
        'disks' => [$disk('vda', 48, 'AAA'), $disk('vdb', 30, 'BBB')], 'cards' => [],
        'devices' => ['pci:v00001AF4d00001042sv00001AF4sd00001100bc01sc00i00'],
    ]));
    $this->now = '--at='.now()->addMinute()->utc()->format('Y-m-d\TH:i:s\Z');
});

it('offers on the page of a request what it can be brought back as, and orders that as a run of machines', function (): void {
    Queue::fake([CarryOutRun::class]);
    $request = RecoveryRequest::query()->create([
        'workload_id' => $this->workload->id, 'requester_id' => $this->operator->id, 'summary' => 'The gate is dead',
        'reason' => 'It is needed', 'wanted_at' => now()->addMinute(), 'due_at' => now()->addHour(),
    ])->refresh();
    $this->get("/requests/{$request->id}?show=where")->assertSee('The whole machine, onto the disks of another');
    $answer = $this->post("/requests/{$request->id}/enrolment")->assertRedirect();
    preg_match('~id="code">([^<]+)<~', (string) $this->followRedirects($answer)->getContent(), $m);
    Enrolment::enrol($m[1], $this->bare, '192.0.2.7');
    $one = Enrolment::query()->sole();
    $this->get($one->page())->assertOk()->assertSee([
        'sda, 64 MiB', 'vda, 48 MiB, AAA', 'made anew, and filled with its files', 'byte by byte', 'dm-0, which is LVM-crew',
    ], false);
    $this->post($one->page(), ['do' => 'order', 'confirm_vda' => 'AAA', 'confirm_vdb' => 'BBB'])->assertSessionHasNoErrors();
    $run = Run::query()->sole();
    expect($run->kind)->toBe('machine')->and(Kinds::of($run)->name())->toBe('machine')
        ->and(Kinds::of($this->workload)->name())->toBe('files')->and($run->plan['sentence'])->toContain('Bring gate as of');
    $this->get("/runs/{$run->id}")->assertOk();
    // Of a folder that is no machine nothing of it is there.
    $this->scratch()->file('plain/roster', 'nine');
    $this->told(0, 'protect', 'plain', '--source='.$this->scratch()->at('plain'), '--level=full');
    $request->update(['workload_id' => Workload::query()->where('name', 'plain')->value('id'), 'state' => 'open']);
    $this->get("/requests/{$request->id}?show=where")->assertOk()->assertDontSee('onto the disks of another');
    $this->post("/requests/{$request->id}/enrolment")->assertNotFound();
});

it('is shown and proposed at the terminal, by what its agent wrote down', function (): void {
    $shown = $this->told(0, 'layout', 'show', 'gate', $this->now);
    expect(array_column($shown['disks'], 'name'))->toBe(['sda', 'sdb'])->and($shown['firmware'])->toBe('uefi')
        ->and($shown['disks'][0]['partitions'][2]['content']['used'])->toBe(10_000 * 1024);
    $code = $this->told(0, 'medium', 'code', 'gate')['code'];
    Enrolment::enrol($code, $this->bare, '192.0.2.7');
    $number = (string) Enrolment::query()->sole()->id;
    $plan = $this->told(0, 'layout', 'propose', 'gate', $number, $this->now);
    expect(array_column($plan['disks'], 'onto'))->toBe(['vda', 'vdb'])->and($plan['misfits'])->toBe([]);
    $dry = $this->told(0, 'restore', 'gate', $this->now, "--to-metal=$number", '--dry-run');
    expect(implode(' ', $dry['cautions']))->toContain('The kernel 6.1.0-1 of sda has no virtio_pci, virtio_blk')
        ->toContain('It starts by UEFI there, and sda has no /EFI/BOOT/BOOTX64.EFI')
        ->and($dry['order'])->toContain('sda onto vda')->and(implode(' ', $dry['cautions']))
        ->toContain('dm-0')->toContain('Nothing of /srv/spool/* comes')->toContain('(sets of its own)');
    expect($this->told(3, 'restore', 'gate', $this->now, "--to-metal=$number")['blockers'][0])->toContain('--erase=AAA')
        ->and($this->told(2, 'medium', 'code', 'plain')['error'])->toContain('no machine');
    // A proposal that was written down, edited and given again is what is ordered.
    $plan['disks'][0]['partitions'][2]['bytes'] = 20 << 20;
    unset($plan['disks'][1]);
    $plan['left_alone'] = ['sdb' => 'it is fine'];
    $file = $this->scratch()->file('layout', (string) json_encode($plan));
    $edited = $this->told(0, 'restore', 'gate', $this->now, "--to-metal=$number", "--layout=$file", '--dry-run');
    expect($edited['disks'])->toHaveCount(1)->and($edited['disks'][0]['partitions'][2]['bytes'])->toBe(20 << 20)
        ->and(array_keys($edited['left_alone']))->toBe(['sdb']);
    $other = $this->told(0, 'layout', 'propose', 'gate', $number, $this->now, "--layout=$file", '--onto=sdb=vdb');
    expect(array_column($other['disks'], 'onto'))->toBe(['vda', 'vdb']);
    foreach ([
        '[]', 'reboot', '{"disks":[{"disk":"../sda","onto":"vda","partitions":[]}]}',
        '{"disks":[],"left_alone":{"a/b":"x"}}',
        '{"disks":[{"disk":"sda","onto":"vda","partitions":[{"number":1,"content":"ext","bytes":-5}]}]}',
    ] as $wrong) {
        file_put_contents($file, $wrong);
        $refused = $this->told(2, 'layout', 'propose', 'gate', $number, $this->now, "--layout=$file");
        expect($refused['error'])->toContain('is no layout');
    }
    expect($this->told(2, 'layout', 'propose', 'gate', $number, $this->now, '--layout=/nowhere')['error'])->toContain('cannot be read');
    // And single files of the same set, as those of any other.
    $to = $this->scratch()->folder('back');
    $this->told(0, 'restore', 'gate', $this->now, '--path=/etc/hostname', "--to=$to");
    expect(file_get_contents("$to/etc/hostname"))->toBe("gate\n");
});

it('tells which network card gets which name there, and writes it into the root file system alone', function (): void {
    $list = "{$this->sent->tree}/".MachineRecord::FOLDER.'/'.MachineRecord::LIST;
    $cards = "card eno1 52:54:00:aa:bb:01\ncard eno2 52:54:00:aa:bb:02\ncard ../../x 52:54:00:aa:bb:03\ncard eno9 nowhere\n";
    file_put_contents($list, $cards, FILE_APPEND);
    foreach (['etc/systemd', 'srv/database/etc/systemd'] as $folder) {
        mkdir("{$this->sent->tree}/$folder", 0755, true);
    }
    sleep(1); // a set is named by its second
    $this->told(0, 'protect', 'gate');
    $code = $this->told(0, 'medium', 'code', 'gate')['code'];
    $bare = $this->bare->toArray();
    Enrolment::enrol($code, TargetMachine::said(Said::of(['cards' => ['52:54:00:00:00:01']] + $bare)), '192.0.2.7');
    $number = (string) Enrolment::query()->sole()->id;
    $told = implode("\n", $this->told(0, 'restore', 'gate', $this->now, "--to-metal=$number", '--dry-run')['cautions']);
    expect($told)->toContain('Its network card eno1 was 52:54:00:aa:bb:01: 52:54:00:00:00:01 is called so there, if it has systemd.')
        ->toContain('It has no network card there for eno2')->not->toContain('../../x')->not->toContain('eno9');
    $points = new Points($this->workload->refresh());
    $source = MetalSources::of($points, $points->sets[array_key_last($points->sets)]);
    $named = ['eno1' => '52:54:00:00:00:01'];
    $names = fn (string $volume): array => array_keys(iterator_to_array($source->tree($volume, $named)->entries()));
    expect($names('sda.3'))->toContain('etc/systemd/network/10-kaiseki-eno1.link')
        ->and($names('sdb'))->toContain('etc/systemd')->not->toContain('etc/systemd/network');
});

it('says which files are nowhere before anything is begun', function (): void {
    $code = $this->told(0, 'medium', 'code', 'gate')['code'];
    Enrolment::enrol($code, $this->bare, '192.0.2.7');
    $number = (string) Enrolment::query()->sole()->id;
    // A sheet for a person names copies that are there.
    $full = array_column($this->told(0, 'points', 'gate')['points'], 'set')[0];
    $this->kaiseki('store-add', 'near', $this->scratch()->folder('near'));
    $this->told(0, 'copy', 'gate', $full, '--to=near');
    $first = Copy::query()->whereRelation('set', 'level', 'full')->whereRelation('store', 'name', 'boathouse')->sole();
    rename("{$first->store->root}/{$first->path}", "{$first->store->root}/{$first->path}.away");
    $sheet = $this->scratch()->at('sheet');
    $this->told(0, 'hand-sheet', 'gate', $this->now, "--to-metal=$number", "--out=$sheet");
    expect(file_get_contents($sheet))->toContain($this->scratch()->at('near')."/gate/$full")
        ->not->toContain("{$first->store->root}/{$first->path}");
    rename("{$first->store->root}/{$first->path}.away", "{$first->store->root}/{$first->path}");
    Copy::query()->whereRelation('set', 'level', 'full')->update(['state' => 'missing']);
    $told = $this->told(3, 'restore', 'gate', $this->now, '--demand=none', "--to-metal=$number", '--erase=AAA', '--erase=BBB');
    expect($told['error'])->toContain('no usable point');
    $point = array_column($this->told(0, 'points', 'gate')['points'], 'set')[1];
    $told = $this->told(3, 'restore', 'gate', "--point=$point", "--to-metal=$number", '--erase=AAA', '--erase=BBB');
    expect($told['error'])->toContain('cannot be')->not->toContain('.php');
});

it('is done by a person with ordinary tools, onto a smaller disk', function (): void {
    $code = $this->told(0, 'medium', 'code', 'gate')['code'];
    Enrolment::enrol($code, $this->bare, '192.0.2.7');
    $number = (string) Enrolment::query()->sole()->id;
    $sheet = $this->scratch()->at('sheet');
    $this->told(0, 'hand-sheet', 'gate', $this->now, "--to-metal=$number", "--out=$sheet");
    $disks = [$this->scratch()->at('vda'), $this->scratch()->at('vdb')];
    foreach ([48, 30] as $i => $mib) {
        (new Process(['truncate', '-s', "{$mib}M", $disks[$i]]))->mustRun();
    }
    $environment = ['DISK_1' => $disks[0], 'DISK_2' => $disks[1]];
    (new Process(['sh', $sheet, $this->scratch()->folder('work')], null, $environment, "WRITE\n", 300))->mustRun();
    $plan = $this->told(0, 'layout', 'propose', 'gate', $number, $this->now)['disks'];
    $table = json_decode((new Process(['sfdisk', '--json', $disks[0]]))->mustRun()->getOutput(), true)['partitiontable']['partitions'];
    $boot = fn (string $disk): string => hash('sha256', (string) file_get_contents($disk, false, null, 1 << 20, 10 << 20));
    expect(array_map(fn (array $one): array => [$one['start'] * 512, $one['size'] * 512], $table))
        ->toBe(array_map(fn (array $one): array => [$one['start'], $one['bytes']], $plan[0]['partitions']))
        ->and($boot($disks[0]))->toBe($boot($this->sent->system))
        ->and(file_get_contents($disks[0], false, null, 0, 440))->toBe(str_repeat('code', 110));
    $root = "{$disks[0]}?offset={$plan[0]['partitions'][2]['start']}";
    $out = $this->scratch()->folder('out');
    foreach ([$root => 'root', $disks[1] => 'data'] as $from => $to) {
        expect((new Process(['e2fsck', '-fn', $from]))->run())->toBe(0);
        (new Process(['debugfs', '-R', 'rdump / '.$this->scratch()->folder("out/$to"), $from]))->mustRun();
    }
    $not = array_map(fn (string $name): string => "--exclude=$name", ['lost+found', 'database', 'efi']);
    $diff = ['diff', '-r', '--no-dereference', ...$not, $this->sent->tree, "$out/root"];
    expect((new Process($diff))->run())->toBe(0)
        ->and(file_get_contents("$out/data/tariffs"))->toBe('tariffs')->and(scandir("$out/root/srv/database"))->toBe(['.', '..'])
        ->and(scandir("$out/root/boot/efi"))->toBe(['.', '..']);
    $said = fn (string $ask): string => (new Process(['debugfs', '-R', $ask, $root]))->mustRun()->getOutput();
    expect($said('stat /usr/bin/suid'))->toContain('Mode:  04755')->and($said('stat /etc/twin'))->toContain('Links: 2')
        ->and($said('ea_list /etc/hostname'))->toContain('user.berth (4) = "nine"');
});

it('is in the night kit of its store, for disks as large as its own were, and writes over none that are smaller', function (): void {
    $this->told(0, 'catalog', 'night-kit');
    $store = Store::query()->where('name', 'boathouse')->value('root');
    $sheet = "$store/night-kit/metal-sheet-gate.sh";
    expect(file_get_contents("$store/night-kit/READ-ME.txt"))->toContain('metal-sheet-gate.sh: gate onto the disks of another machine');
    $disks = [$this->scratch()->at('vda'), $this->scratch()->at('vdb')];
    $run = function (array $mib, string $in) use ($sheet, $disks): Process {
        foreach ($mib as $i => $size) {
            file_put_contents($disks[$i], '');
            (new Process(['truncate', '-s', "{$size}M", $disks[$i]]))->mustRun();
        }
        $environment = ['DISK_1' => $disks[0], 'DISK_2' => $disks[1]];

        return new Process(['sh', $sheet, $this->scratch()->folder($in)], null, $environment, "WRITE\n", 300);
    };
    $small = $run([60, 20], 'one');
    expect($small->run())->toBe(2)->and($small->getErrorOutput())->toContain('has fewer than')
        ->and(trim((string) file_get_contents($disks[0]), "\0"))->toBe('');
    $run([70, 25], 'two')->mustRun();
    $table = json_decode((new Process(['sfdisk', '--json', $disks[0]]))->mustRun()->getOutput(), true)['partitiontable']['partitions'];
    $root = "{$disks[0]}?offset=".($table[2]['start'] * 512);
    $said = fn (string $ask): string => (new Process(['debugfs', '-R', $ask, $root]))->mustRun()->getOutput();
    expect($said('cat /etc/motd'))->toBe('later')->and((new Process(['e2fsck', '-fn', $root]))->run())->toBe(0);
});

it('gives images and files as they were, each file system without what was mounted in it', function (): void {
    $points = new Points($this->workload);
    $source = MetalSources::of($points, $points->sets[array_key_last($points->sets)]);
    $source->only(['sda']);
    [$boot, , $root] = $source->record()->disk('sda')->partitions;
    expect(hash('sha256', implode('', [...$source->image('sda.1', $boot->bytes)])))
        ->toBe(hash('sha256', (string) file_get_contents($this->sent->system, false, null, $boot->start, $boot->bytes)))
        ->and(fn () => [...$source->image('sda.3', $root->bytes)])->toThrow(CannotBring::class, 'no image of sda.3');
    $tree = $source->tree('sda.3');
    $entries = iterator_to_array($tree->entries());
    $found = (new Process([
        'find', '.', '-mindepth', '1', '-not', '-path', './srv/database/*', '-not', '-path', './boot/efi/*', '-printf', '%P\0',
    ], $this->sent->tree))->mustRun()->getOutput();
    expect(array_map(strval(...), array_keys($entries)))->toEqualCanonicalizing(explode("\0", rtrim($found, "\0")))
        ->and(array_keys(iterator_to_array($source->tree('sdb')->entries())))->toBe(['tariffs'])
        ->and(implode('', [...$tree->content($entries['etc/motd'])]))->toBe('later')
        ->and($entries['etc/hostname']->extended)->toBe(['SCHILY.xattr.user.berth' => 'nine'])
        ->and($entries['etc/twin']->node)->toBe($entries['etc/hostname']->node)->toBeGreaterThan(0)
        ->and($entries['srv/holes']->version->sparse)->toBeTrue()->and($entries['etc/motd']->version->sparse)->toBeFalse()
        ->and($tree->root()->version->mode)->toBe(fileperms($this->sent->tree) & 07777)
        ->and($source->answers(new Answer('/', ['/etc/hostname'])))->toBe(['/etc/hostname' => 'gate'])
        ->and(fn () => $source->answers(new Answer('/', ['/etc/nothing'])))->toThrow(CannotBring::class)
        ->and(fn () => $source->tree('sda.1'))->toThrow(CannotBring::class);
    // What was written down is read once, and kept with the set.
    $newest = $points->sets[array_key_last($points->sets)];
    expect($points->model($newest)->refresh()->facts['machine']['kernel'])->toBe('6.1.0-1')
        ->and(MetalSources::of($points, $newest)->record())->toEqual($source->record());
});

it('is not begun where nothing would start from it', function (): void {
    $list = "{$this->sent->tree}/var/lib/kaiseki-agent/machine/machine";
    file_put_contents($list, preg_replace('/^volume sda.3 files.*$/m', 'volume sda.3 left it_is_part_of_dm-0', file_get_contents($list)));
    sleep(1);
    $this->told(0, 'protect', 'gate');
    Enrolment::enrol($this->told(0, 'medium', 'code', 'gate')['code'], $this->bare, '192.0.2.7');
    $number = (string) Enrolment::query()->sole()->id;
    $told = $this->told(3, 'restore', 'gate', $this->now, "--to-metal=$number", '--erase=AAA', '--erase=BBB');
    expect($told['error'])->toContain('would not start')
        ->and(implode(' ', $told['cautions']))->toContain('sda.3 comes empty: nothing of it is in the set, for it is part of dm-0.');
});
