<?php

declare(strict_types=1);

use App\Instance;
use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\Exchange;
use App\Kinds\Machines\Metal\MetalOrder;
use App\Kinds\Machines\Metal\MetalProof;
use App\Kinds\Machines\Metal\MetalSources;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\Workload;
use App\Sets\Points;
use Illuminate\Support\Facades\Queue;
use Kaiseki\Core\Metal\EnrolmentCode;
use Kaiseki\Core\Metal\Said;
use Kaiseki\Core\Metal\TargetMachine;
use Kaiseki\StandIns\SorrelSoundMachine;
use Symfony\Component\Process\Process;

// A machine that a recovery medium was started on, on its page: code, disks, layout, confirmation, order.

beforeEach(function (): void {
    $source = new SorrelSoundMachine($this->scratch()->at('work'), $this->scratch()->at('images'), 'gate');
    $source->begin(new DateTimeImmutable('2026-10-20'));
    $source->night(new DateTimeImmutable('2026-10-20T23:10:00Z'), 'full');
    $this->kaiseki('adopt', $this->scratch()->at('images'), '--as=gate', '--kind=machine');
    $this->actingAs($this->operator = $this->person(Role::Operator));
    $this->request = RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->value('id'), 'requester_id' => $this->operator->id, 'summary' => 'The gate is dead',
        'reason' => 'It is needed', 'wanted_at' => now()->addMinute(), 'due_at' => now()->addHour(),
    ])->refresh();
    $disk = fn (string $name, int $mib, string $serial): array => [
        'name' => $name, 'bytes' => $mib << 20, 'sector' => 512, 'serial' => $serial, 'marks' => $name === 'sda' ? ['ntfs OLD'] : [],
    ];
    $this->bare = fn (int $mib = 200): TargetMachine => TargetMachine::said(Said::of([
        'firmware' => 'bios', 'product' => '<b>Box</b>', 'serial' => 'SN-1', 'memory' => 4 << 20,
        'disks' => [$disk('sda', $mib, 'AAA'), $disk('sdb', 60, 'BBB'), ['medium' => true] + $disk('sdc', 30, 'STICK')],
        'cards' => ['52:54:00:12:34:56'],
    ]));
    /** The code that the page shows, once. */
    $this->code = function (): string {
        $answer = $this->post("/requests/{$this->request->id}/enrolment")->assertRedirect();
        preg_match('~id="code">([^<]+)<~', (string) $this->followRedirects($answer)->getContent(), $m);

        return $m[1];
    };
});

it('goes from a code to an order, and writes over nothing that was not named', function (): void {
    Queue::fake([CarryOutRun::class]);
    $this->get("/requests/{$this->request->id}?show=where")->assertSee('Make a code');
    $code = ($this->code)();
    $one = Enrolment::query()->sole();
    $this->get($one->page())->assertSee('waits for a machine')->assertDontSee($code);
    Enrolment::enrol($code, ($this->bare)(), '192.0.2.7');
    $this->get("/requests/{$this->request->id}?show=where")->assertSee("Enrolment {$one->id}");
    $this->get($one->page())->assertOk()->assertSee([
        $one->refresh()->phrase, '&lt;b&gt;Box&lt;/b&gt;', 'ntfs OLD', 'system, 80 MiB', 'sda, 200 MiB, AAA', 'the medium',
        'made anew, and filled with its files', 'byte by byte', 'no disk that is brought has code to start',
    ], false);

    // Another layout: the disks change places, and the root file system is as large as somebody says.
    $post = fn (array $said) => $this->post($one->page(), $said);
    $post(['do' => 'layout', 'onto_0' => 'sdb', 'onto_1' => 'sda'])->assertRedirect($one->page());
    $this->get($one->page())->assertSee(['as proposed: sdb', 'To say that', 'sdb, 60 MiB, BBB']);
    $post(['do' => 'order', 'onto_0' => 'sdb', 'onto_1' => 'sda'])->assertSessionHasErrors('order');
    $post(['do' => 'layout', 'size_0_2' => '5', 'onto_1' => '-'])->assertRedirect();
    $this->get($one->page())->assertSee(['Partition 2 of system needs at least', 'not brought'])->assertDontSee('To say that');
    $post(['do' => 'layout', 'onto_0' => 'sdz'])->assertRedirect();
    $this->get($one->page())->assertSee('The machine has no disk');
    $post(['do' => 'layout', 'size_0_2' => '60', 'size_1_2' => '60', 'onto_0' => '', 'onto_1' => ''])->assertRedirect();
    $this->get($one->page())->assertSee('value="60"', false);

    $post(['do' => 'order', 'confirm_sda' => 'AAA'])->assertSessionHasErrors('order');
    $post(['do' => 'order', 'confirm_sda' => 'BBB', 'confirm_sdb' => 'AAA'])->assertSessionHasErrors('order');
    expect(Run::query()->count())->toBe(0);
    $post(['do' => 'order', 'confirm_sda' => 'AAA', 'confirm_sdb' => ' BBB ', 'renew_id' => '1'])->assertSessionHasNoErrors();
    $run = Run::query()->sole();
    expect(MetalOrder::fromArray($run->plan)->renewsId)->toBeTrue()
        ->and($run->plan['sentence'])->toContain(', with a machine id of its own, and read all of it again');
    Queue::assertPushed(CarryOutRun::class, 1);
    expect($run->plan['way'])->toBe('metal')->and($run->user_id)->toBe($this->operator->id)
        ->and(TrailEntry::query()->where('what', 'like', '%was ordered: Bring gate%')->count())->toBe(1);
    $this->get("/runs/{$run->id}")->assertOk();

    // And once it is over: what the medium said, and its proof.
    $disks = [['disk' => 'system', 'onto' => 'sda', 'serial' => 'AAA', 'bytes' => 200 << 20]];
    $check = ['check' => 'every byte of system.1', 'result' => 'passed', 'detail' => 'SHA-256 of it'];
    $run->update(['state' => 'done', 'started_at' => now(), 'ended_at' => now(), 'outcome' => [
        'disks' => $disks, 'checks' => [$check], 'left_out' => 1, 'cautions' => ['It may not start.'], 'bytes' => 5, 'right' => true,
        'rehearsed' => false, 'told' => [['at' => 1.0, 'step' => 'table', 'what' => '<i>sda</i> 0 0.1']],
    ]]);
    MetalProof::write($run, MetalOrder::fromArray($run->plan));
    $this->get("/runs/{$run->id}")->assertSee(['&lt;i&gt;sda', 'It may not start.', '1 device or socket did not come', 'Proven'], false);
    $this->get("/runs/{$run->id}/page")->assertOk()->assertSee(['every byte of system.1', 'serial number AAA', '&lt;b&gt;Box'], false);
});

it('shows a volume group with its volumes, and takes their sizes', function (): void {
    foreach (['system', 'data'] as $disk) {
        copy("compress.zlib://tests/Fixtures/lvm/$disk.raw.gz", $this->scratch()->folder('group')."/quay.$disk.full.20261020T231000Z.raw");
    }
    $this->told(0, 'adopt', $this->scratch()->at('group'), '--as=quay', '--kind=machine');
    $code = $this->told(0, 'medium', 'code', 'quay');
    Enrolment::enrol($code['code'], ($this->bare)(), '192.0.2.7');
    $one = Enrolment::query()->findOrFail($code['enrolment']);
    $this->get($one->page())->assertSee('were laid out was not read yet');
    $this->post($one->page(), ['do' => 'read'])->assertRedirect($one->page());
    $at = ['--at=2026-10-21T00:00:00Z'];
    expect($this->kaiseki('layout', 'show', 'quay', ...$at)->text)
        ->toContain("harbour: a volume group on system.2, data\n")->toContain('root             12 MiB ext4 "root"')
        ->toContain('LVM "harbour": a part of a volume group, which is made anew');
    $this->get($one->page())->assertSee([
        'a volume group on system.2, data', 'MiB of harbour-root', 'harbour, 32 MiB', 'name="volume_0_1"',
    ], false);
    $post = fn (array $said) => $this->post($one->page(), ['do' => 'layout', ...$said])->assertRedirect($one->page());
    $post(['volume_0_1' => '40']);
    $propose = fn (string ...$more): array => $this->told(...[0, 'layout', 'propose', 'quay', (string) $one->id, ...$at, ...$more]);
    $this->get($one->page())->assertSee(['value="40"', '40 MiB'], false);
    $sizes = fn (array $plan): array => array_column($plan['groups'][0]['volumes'], 'bytes', 'name');
    expect($sizes($propose('--size=harbour-plans='.(30 << 20))))->toBe(['root' => 12 << 20, 'plans' => 30 << 20, 'strips' => 4 << 20]);
    // As it was written down, edited, and taken again.
    $plan = $propose();
    $plan['groups'][0]['volumes'][2]['bytes'] = 50 << 20;
    $file = $this->scratch()->file('layout.json', (string) json_encode($plan));
    expect($sizes($propose("--layout=$file")))->toBe(['root' => 12 << 20, 'plans' => 6 << 20, 'strips' => 50 << 20]);
    $post(['volume_0_1' => '1']);
    $this->get($one->page())->assertSee('The volume harbour-plans needs at least')->assertDontSee('To say that');
    $post(['volume_0_1' => '', 'onto_0' => '-']);
    $this->get($one->page())->assertSee('which is not brought: bring all of it, or nothing');

    $workload = Workload::query()->where('name', 'quay')->sole();
    $points = new Points($workload);
    $source = MetalSources::of($points, $points->sets[array_key_last($points->sets)]);
    $source->only(['system', 'data']);
    $bytes = implode('', [...$source->image('harbour-root', 12 << 20)]);
    expect(strlen($bytes))->toBe(12 << 20)->and(substr($bytes, 1080, 2))->toBe("\x53\xef")
        ->and(array_keys(iterator_to_array($source->tree('harbour-strips')->entries())))->toContain('srv/60.csv');
});

it('does not begin for a machine that has gone, and has written nothing then', function (): void {
    Queue::fake([CarryOutRun::class]);
    Enrolment::enrol(($this->code)(), ($this->bare)(), '192.0.2.7');
    $one = Enrolment::query()->sole();
    $this->post($one->page(), ['do' => 'order', 'confirm_sda' => 'AAA', 'confirm_sdb' => 'BBB'])->assertSessionHasNoErrors();
    $run = Run::query()->sole();
    $one->end('somebody ended it');
    (new MachineCarrier)->carryOut($run);
    expect([$run->refresh()->state, $run->failure])
        ->toBe(['failed', 'The enrolment is over: somebody ended it. Nothing was written.']);
    $this->get("/runs/{$run->id}")->assertOk()->assertSee('Nothing was written.');
    expect((new MachineCarrier)->canBePutBack($run))->toBeFalse()
        ->and((new MachineCarrier)->touches($run)->marked())->toBe([]);
});

it('is for who works for its workload, and ends by one button', function (): void {
    $code = ($this->code)();
    $one = Enrolment::query()->sole();
    $this->post($one->page(), ['do' => 'end'])->assertRedirect($one->page());
    expect(Enrolment::enrol($code, ($this->bare)(), '192.0.2.7'))->toBeNull();
    $this->get($one->page())->assertSee('over: ');
    $this->post($one->page(), ['do' => 'else'])->assertNotFound();
    $this->actingAs($this->person(Role::Auditor));
    $this->get($one->page())->assertOk()->assertDontSee('End this enrolment');
    $this->post($one->page(), ['do' => 'end'])->assertForbidden();
});

it('gives one machine one token, and none to a code that is over', function (): void {
    $code = ($this->code)();
    [, $token] = Enrolment::enrol(strtoupper(strtr($code, '-', ' ')), ($this->bare)(), '192.0.2.7');
    expect(Enrolment::enrol($code, ($this->bare)(), '192.0.2.8'))->toBeNull()
        ->and(Enrolment::holding($token)?->address)->toBe('192.0.2.7')
        ->and(Enrolment::holding('')?->id)->toBeNull()
        ->and(EnrolmentCode::phrase($token))->toBe(Enrolment::query()->sole()->phrase);
    $late = ($this->code)();
    Enrolment::query()->latest('id')->first()->update(['expires_at' => now()->subSecond()]);
    expect(Enrolment::enrol($late, ($this->bare)(), '192.0.2.7'))->toBeNull()
        ->and(Enrolment::enrol('1-a-b', ($this->bare)(), '192.0.2.7'))->toBeNull()
        ->and(Enrolment::enrol('999999-a-b-c-d', ($this->bare)(), '192.0.2.7'))->toBeNull();
});

it('answers media by their own line only, to a token, and piece by piece', function (): void {
    $code = ($this->code)();
    [$one, $token] = Enrolment::enrol($code, ($this->bare)(), '192.0.2.7');
    $line = ['KAISEKI_METAL' => 'on', 'HTTP_X_KAISEKI_TOKEN' => $token];
    $ask = fn (string $path, array $server = []) => $this->call('GET', "/metal/$path", [], [], [], $server + $line);
    $send = fn (string $path, string $body) => $this->call('POST', "/metal/$path", [], [], [], $line, $body);
    expect($ask('orders', ['KAISEKI_METAL' => ''])->status())->toBe(404)
        ->and($ask('orders', ['HTTP_X_KAISEKI_TOKEN' => 'x'])->status())->toBe(410)
        ->and($ask('orders')->status())->toBe(204);
    $run = Run::query()->create([
        'workload_id' => $one->workload_id, 'set_id' => BackupSet::query()->value('id'), 'state' => 'running',
        'plan' => ['way' => 'metal'], 'is_whole' => true,
    ]);
    $one->update(['run_id' => $run->id]);
    $exchange = Exchange::of($run);
    $exchange->begin();
    $exchange->order("kaiseki-orders 1 x\nlist sda 1 0 ext4\noff\n");
    $exchange->put('hash', 0, 0, 'bytes');
    $exchange->put('hash', 0, 1, null);
    expect($ask('orders')->getContent())->toBe("kaiseki-orders 1 x\nlist sda 1 0 ext4\noff\n")
        ->and(strlen((string) $ask('orders/signature')->getContent()))->toBe(64)
        ->and(substr((string) $ask('content/0/0')->baseResponse->getFile()->getContent(), 64))
        ->toBe(str_pad('kaiseki-piece hash 0 0 '.hash('sha256', 'bytes'), 192).'bytes')
        ->and($ask('content/1/0')->status())->toBe(204)
        ->and(glob(Instance::path("runs/{$run->id}/metal/content/*")))->toBe([]); // what was asked for behind it is not needed any more
    expect($send('listing/0/entries/1', 'late')->status())->toBe(409)
        ->and($send('listing/1/entries/0', 'not asked for')->status())->toBe(409)
        ->and($send('listing/0/entries/0', 'one ')->status())->toBe(200)
        ->and($send('listing/0/entries/0', 'one ')->status())->toBe(200)
        ->and($send('listing/0/entries/1', 'two')->status())->toBe(200)
        ->and($send('progress/table', "sda \xff")->status())->toBe(200)
        ->and(array_column($exchange->told(), 'step'))->toBe(['table']);
    $one->end('it is over');
    expect($ask('orders')->status())->toBe(410);
});

it('is written down as commands for a person, which do the same with ordinary tools', function (): void {
    $code = ($this->code)();
    Enrolment::enrol($code, ($this->bare)(70), '192.0.2.7'); // smaller than it was
    $number = Enrolment::query()->sole()->id;
    $sheet = $this->scratch()->at('sheet');
    $this->told(0, 'hand-sheet', 'gate', '--at=2026-10-21T12:00:00Z', "--to-metal=$number", "--out=$sheet");
    $disks = [$this->scratch()->at('sda'), $this->scratch()->at('sdb')];
    foreach ([70 << 20, 60 << 20] as $i => $bytes) {
        $file = fopen($disks[$i], 'w+b');
        fwrite($file, str_repeat('old', 100_000));
        ftruncate($file, $bytes);
    }
    $run = fn (string $types, string $in): Process => new Process(
        ['sh', $sheet, $this->scratch()->folder($in)], null, ['DISK_1' => $disks[0], 'DISK_2' => $disks[1]], "$types\n", 300,
    );
    $before = array_map(md5_file(...), $disks);
    expect($run('no', 'one')->run())->toBe(2)->and(array_map(md5_file(...), $disks))->toBe($before);
    $run('WRITE', 'two')->mustRun();

    $plan = $this->told(0, 'layout', 'propose', 'gate', (string) $number, '--at=2026-10-21T12:00:00Z')['disks'];
    $table = json_decode((new Process(['sfdisk', '--json', $disks[0]]))->mustRun()->getOutput(), true)['partitiontable']['partitions'];
    expect(array_map(fn (array $one): array => [$one['start'] * 512, $one['size'] * 512], $table))
        ->toBe(array_map(fn (array $one): array => [$one['start'], $one['bytes']], $plan[0]['partitions']));
    $listed = function (string $disk): string {
        $out = $this->scratch()->folder('out'.bin2hex(random_bytes(3)));
        (new Process(['debugfs', '-R', "rdump / $out", $disk]))->mustRun();
        $lines = (new Process(['sh', '-c', 'find . -type f -exec sha256sum {} + | sort'], $out))->mustRun()->getOutput();

        return $lines;
    };
    $was = "{$this->scratch()->at('work')}/system.raw?offset=".(25 << 20);
    expect($listed("{$disks[0]}?offset={$plan[0]['partitions'][1]['start']}"))->toBe($listed($was))
        ->and($listed($disks[1]))->toBe($listed("{$this->scratch()->at('work')}/data.raw"));
    $boot = fn (string $disk): string => hash('sha256', (string) file_get_contents($disk, false, null, 1 << 20, 24 << 20));
    expect($boot($disks[0]))->toBe($boot("{$this->scratch()->at('work')}/system.raw"));
    expect($this->told(3, 'hand-sheet', 'gate', '--at=2026-10-21T12:00:00Z', "--to-metal=$number", '--onto=system=sdb', '--onto=data=sda',
        '--size=system.2=1048576')['error'])->toContain('needs at least');
});

it('tells before that a firmware by UEFI would find nothing that it starts by itself', function (): void {
    $cautions = function (string $name): string {
        $code = $this->told(0, 'medium', 'code', $name);
        Enrolment::enrol($code['code'], TargetMachine::said(Said::of(['firmware' => 'uefi'] + ($this->bare)()->toArray())), '192.0.2.7');
        $at = ['--at=2026-10-21T00:00:00Z', '--to-metal='.$code['enrolment'], '--dry-run'];

        return implode("\n", $this->told(0, 'restore', $name, ...$at)['cautions']);
    };
    foreach (['EFI/BOOT/BOOTX64.EFI' => 'quay', 'EFI/debian/grubx64.efi' => 'kelp'] as $loader => $name) {
        $this->scratch()->folder($name);
        $image = $this->scratch()->at("$name/$name.system.full.20261020T231000Z.raw");
        (new Process(['truncate', '-s', '40M', $image]))->mustRun();
        (new Process(['sfdisk', '--quiet', $image], null, null, "label: gpt\nstart=2048, size=40960, type=U\n"))->mustRun();
        $env = ['MTOOLSRC' => '/dev/null', 'MTOOLS_SKIP_CHECK' => '1'];
        (new Process(['mformat', '-i', "$image@@1M", '-T', '40960', '-h', '1', '-s', '1', '::'], null, $env))->mustRun();
        $part = '::';
        foreach (explode('/', dirname($loader)) as $folder) {
            (new Process(['mmd', '-i', "$image@@1M", $part .= "/$folder"], null, $env))->mustRun();
        }
        (new Process(['mcopy', '-i', "$image@@1M", '/etc/hostname', "::/$loader"], null, $env))->mustRun();
        $this->told(0, 'adopt', $this->scratch()->at($name), "--as=$name", '--kind=machine');
    }
    expect($cautions('quay'))->not->toContain('BOOTX64')
        ->and($cautions('kelp'))->toContain('It starts by UEFI there, and system has no /EFI/BOOT/BOOTX64.EFI on its EFI system partition')
        ->toContain('make an entry for its own loader in the menu of that firmware');
});
