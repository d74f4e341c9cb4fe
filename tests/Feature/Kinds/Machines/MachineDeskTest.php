<?php

declare(strict_types=1);

use App\Instance;
use App\Kinds\Kinds;
use App\Kinds\Machines\Order\MachineSheet;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use Symfony\Component\Filesystem\Filesystem;
use Tests\Support\Machine;
use Tests\TestCase;

// Images are written over nothing, and tests count their requests anew.
beforeEach(fn () => (new Filesystem)->remove(glob(Instance::path('restored/request-*')) ?: []));

function machineOperator(): User
{
    return User::query()->create([
        'name' => 'Desk',
        'email' => 'desk@sorrelsound.example',
        'role' => Role::Operator,
        'password' => 'tide-table-9',
        'zone' => 'Europe/Oslo',
    ]);
}

function machineRequestOf(User $operator): RecoveryRequest
{
    return RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->value('id'),
        'requester_id' => $operator->id,
        'summary' => 'The machine is gone',
        'reason' => 'It is needed',
        'wanted_at' => '2026-10-02 18:00:00',
        'due_at' => now()->addHour(),
    ])->refresh();
}

/** A request about the machine "berth", as an operator has it in hand. */
function machineRequest(TestCase $test): RecoveryRequest
{
    Machine::taken($test);
    $operator = machineOperator();
    $test->actingAs($operator);

    return machineRequestOf($operator);
}

it('shows every part of the worksheet of a machine', function (): void {
    $request = machineRequest($this);
    foreach (
        [
            'when' => 'The newest good point',
            'what' => 'Bring these back',
            'where' => 'a folder of a host',
            'how' => 'vhdx',
            'preview' => 'berth.data.qcow2',
            'run' => 'Nothing that is there now will be touched',
        ] as $show => $text
    ) {
        $this->get("/requests/{$request->id}?show=$show")
            ->assertOk()
            ->assertSee($text)
            ->assertSee('both disks');
    }
    $this->get("/workloads/{$request->workload_id}")
        ->assertOk()
        ->assertSee('machine');
    $this->get('/estate')->assertOk();
    $this->get('/kinds')->assertOk()->assertSee('qemu-utils');
    $set = BackupSet::query()->firstOrFail();
    $given = array_column((new Points($request->workload))->judge->gives($set), 'words', 'what');
    expect($given['images of its disks'])->toBe('data (5 MiB), system (3 MiB)');
    $this->get("/requests/{$request->id}/hand-sheet")->assertOk();
});

it('settles point, disks, format and place, runs it, and shows and prints the proof', function (): void {
    $request = machineRequest($this);
    $url = "/requests/{$request->id}";
    $first = BackupSet::query()->where('level', 'full')->value('id');
    $this->post("$url/machine", ['settle' => 'point', 'point' => $first])->assertRedirect();
    $this->post("$url/machine", ['settle' => 'disks', 'disks' => ['data']])->assertSessionHasNoErrors();
    $this->post("$url/machine", ['settle' => 'how', 'format' => 'vhdx'])->assertSessionHasNoErrors();
    $sheet = new MachineSheet($request->refresh());
    expect($sheet->blockers())
        ->toBe([])
        ->and($sheet->sentence('UTC'))
        ->toContain('Write the disk data of berth')
        ->and($sheet->point?->id)
        ->toBe($first);
    $this->post("$url/run", ['order' => $sheet->fingerprint()])->assertRedirect();
    $run = Run::query()->firstOrFail();
    Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->state)
        ->toBe('done', (string) $run->failure)
        ->and($run->outcome['right'])
        ->toBeTrue()
        ->and(array_column($run->outcome['disks'], 'file'))
        ->toBe(['berth.data.vhdx']);
    $this->get("$url?show=proof")
        ->assertOk()
        ->assertSee('berth.data.vhdx')
        ->assertSee('all of it is right');
    $this->get("/runs/{$run->id}/page")
        ->assertOk()
        ->assertSee('BLAKE2b-256');
    $this->kaiseki('proof', (string) $run->id, '--out='.$this->scratch()->at('proof.json'));
    expect($this->kaiseki('check-proof', $this->scratch()->at('proof.json'))->code)->toBe(0);
});

it('refuses what cannot be settled', function (array $said, string $field): void {
    $request = machineRequest($this);
    $this->post("/requests/{$request->id}/machine", $said)->assertSessionHasErrors($field);
})->with([
    'nothing' => [[], 'settle'],
    'no disk' => [['settle' => 'disks'], 'disks'],
    'a format nobody knows' => [['settle' => 'how', 'format' => 'floppy'], 'format'],
    'a host that is not there' => [['settle' => 'where', 'to' => 'host', 'host' => 99, 'folder' => 'x'], 'host'],
    'no folder' => [['settle' => 'where', 'to' => 'host'], 'folder'],
    'a path that leaves' => [['settle' => 'files', 'take' => 'disk/../../etc'], 'take'],
]);

it('says on the page what of a point is lost, and gives the rest when that is settled', function (): void {
    $request = machineRequest($this);
    unlink($this->scratch()->at('images/berth.data.full.20261001T020000Z.qcow2'));
    $url = "/requests/{$request->id}";
    $this->get("$url?show=when")->assertSee('There is no usable point');
    $this->post("$url/machine", ['settle' => 'point', 'point' => BackupSet::query()->where('level', 'incr')->value('id')]);
    $this->get("$url?show=what")->assertSee('16 blocks of 64 KiB');
    expect((new MachineSheet($request->refresh()))->blockers()[0])->toContain('16 blocks of the disk data cannot be given back');
    $this->post("$url/machine", ['settle' => 'how', 'format' => 'raw', 'part' => 1])->assertSessionHasNoErrors();
    $sheet = new MachineSheet($request->refresh());
    expect($sheet->blockers())->toBe([]);
    $this->post("$url/run", ['order' => $sheet->fingerprint()]);
    $run = Run::query()->firstOrFail();
    Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->outcome['missing'] ?? $run->failure)->toBe(16);
    $this->get("$url?show=proof")->assertSee('16 blocks could not be had');
});

it('looks into a machine on the page, takes files into the selection, and puts them back', function (): void {
    Machine::withFiles($this);
    $operator = machineOperator();
    $this->actingAs($operator);
    $request = machineRequestOf($operator);
    $url = "/requests/{$request->id}";
    $this->get("$url?show=what")->assertSee('disk.2')->assertSee('ext4');
    $this->get("$url?show=what&folder=disk.2%2Fsrv%2Fplans")->assertSee('plan 60.csv')->assertDontSee('plan 7.csv');
    $this->get("$url?show=what&folder=disk.1")->assertSee('cannot be looked into');
    $this->get("$url?show=what&folder=disk.2%2Fnowhere")->assertSee('has no');
    $this->post("$url/machine", ['settle' => 'files', 'take' => 'disk.2%2Fsrv', 'folder_shown' => 'disk.2'])->assertSessionHasNoErrors();
    $this->get("$url?show=what&folder=disk.2%2Fsrv")->assertSee('It comes with its folder');
    foreach (['preview', 'how', 'run', 'where'] as $show) {
        $this->get("$url?show=$show")->assertOk()->assertSee('/disk.2/srv');
    }
    $sheet = new MachineSheet($request->refresh());
    expect($sheet->blockers())->toBe([]);
    $this->post("$url/run", ['order' => $sheet->fingerprint()])->assertRedirect();
    $run = Run::query()->firstOrFail();
    Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->outcome['files'] ?? $run->failure)->toBe(59);
    $this->get("$url?show=proof")->assertSee('59 files')->assertSee('all of it is right');
    $this->get("/runs/{$run->id}/page")->assertOk()->assertSee('59 files');
    $this->get("/runs/{$run->id}/manifest")->assertOk();
    $this->post("$url/machine", ['settle' => 'files', 'drop' => 'disk.2%2Fsrv', 'folder_shown' => ''])->assertRedirect();
    expect((new MachineSheet($request->refresh()))->files)->toBeNull();
});

it('writes how the machine was configured beside its images, and gives each of them away, also from where it broke off', function (): void {
    $request = machineRequest($this);
    $to = $this->scratch()->at('out');
    $this->kaiseki('restore', 'berth', '--at=2026-10-09T00:00:00Z', "--to=$to", '--format=qcow2');
    expect(file_get_contents("$to/berth.settings.txt"))
        ->toContain('settings     not known')
        ->toContain('disk system  berth.system.qcow2, 3 MiB, 3145728 bytes');
    $run = Run::query()->orderByDesc('id')->firstOrFail();
    $run->update(['request_id' => $request->id]);
    $url = "/runs/{$run->id}/images/berth.system.qcow2";
    $image = (string) file_get_contents("$to/berth.system.qcow2");
    $whole = $this->get($url)->assertOk()->assertHeader('Content-Length', (string) strlen($image));
    expect($whole->streamedContent())->toBe($image);
    $tag = (string) $whole->headers->get('ETag');
    foreach (['bytes=1000-' => [1000, null], 'bytes=5-9' => [5, 5], 'bytes=-7' => [-7, null]] as $range => [$from, $length]) {
        $part = $this->withHeaders(['Range' => $range, 'If-Range' => $tag])->get($url)->assertStatus(206);
        expect($part->streamedContent())->toBe(substr($image, $from, $length));
    }
    $this->withHeaders(['Range' => 'bytes=99999999999-', 'If-Range' => $tag])->get($url)->assertStatus(416);
    $this->withHeaders(['Range' => 'bytes=5-9', 'If-Range' => '"another"'])->get($url)->assertOk();
    $this->withHeaders(['Range' => 'lines=1', 'If-Range' => $tag])->get($url)->assertOk();
    $this->get("/runs/{$run->id}/images/..%2Fsecret")->assertNotFound();
    $this->get("/runs/{$run->id}/images/secret")->assertNotFound();
    $this->get("/runs/{$run->id}")->assertSee($url);
    file_put_contents("$to/berth.system.qcow2", 'x', FILE_APPEND);
    $this->get($url)->assertStatus(409);
    expect(TrailEntry::query()->where('what', 'like', "Took berth.system.qcow2 of run {$run->id}%")->count())->toBe(6);
});
