<?php

declare(strict_types=1);

use App\Instance;
use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Order\MachineSheet;
use App\Kinds\Machines\Page\MachineSheetView;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\Workload;
use Symfony\Component\Process\Process;
use Tests\Support\Disks;
use Tests\Support\HypervisorAtWork;

/*
 * Files into a machine that is off. What lies in its disk afterwards is read by debugfs and checked by e2fsck of e2fsprogs, and compared
 * with the tree that was put in by mke2fs.
 */

const ROOT_AT = 4 << 20;

beforeEach(function (): void {
    $this->host = new HypervisorAtWork;
    $this->hypervisor = $this->host->open();
    $scratch = $this->scratch();
    foreach (range(1, 30) as $i) {
        $scratch->file("tree/srv/plans/plan $i.csv", str_repeat("berth,$i\n", 400 * $i));
    }
    $scratch->file('tree/etc/machine-id', "4be1\n");
    chmod($scratch->at('tree/etc/machine-id'), 0440);
    symlink('../etc/machine-id', $scratch->at('tree/srv/plans/id'));
    link($scratch->at('tree/srv/plans/plan 30.csv'), $scratch->at('tree/srv/plans/second name'));
    touch($scratch->at('tree/srv/plans/plan 2.csv'), 1_500_000_000);
    $this->raw = $scratch->file('now.raw', '');
    $file = fopen($this->raw, 'r+b');
    ftruncate($file, 40 << 20);
    fclose($file);
    (new Process(['sfdisk', '--quiet', $this->raw], null, null, "label: gpt\nstart=2048, size=4096\nstart=8192, size=61440\n"))->mustRun();
    Disks::qemu('mke2fs', '-q', '-t', 'ext4', '-d', $scratch->at('tree'), '-E', 'offset='.ROOT_AT, $this->raw, '30M');
    $this->inside = function (string ...$commands): string {
        $process = new Process(['debugfs', '-w', '-f', '-', "{$this->raw}?offset=".ROOT_AT], null, null, implode("\n", $commands)."\n");

        return $process->mustRun()->getOutput();
    };
    ($this->inside)(
        'set_inode_field "/srv/plans/plan 3.csv" uid 70001',
        'set_inode_field "/srv/plans/plan 3.csv" mode 0104755',
        'ea_set "/srv/plans/plan 3.csv" user.berth nine',
    );
    $this->host->machine('kelp', disk: $this->raw);
    $this->kaiseki('hypervisor', 'add', 'ketch', "--folder={$this->host->folder}");
    Store::query()->create(['name' => 'boathouse', 'site' => 'boathouse', 'root' => $scratch->folder('store')]);
    $this->kaiseki('protect', 'kelp', '--machine=ketch:kelp', '--level=full');
    // What it lost since.
    $this->lose = function (string ...$commands): void {
        ($this->inside)(...$commands);
        HypervisorAtWork::fill($this->hypervisor, 'kelp', 'disk', (string) file_get_contents($this->raw));
        $door = $this->hypervisor->openDisk('kelp', 'disk', true);
        $this->hypervisor->closeDisk($door);
    };
    $this->into = fn (string ...$more) => $this->kaiseki(
        'restore', 'kelp', '--at=2099-01-01T00:00:00Z', '--into=kelp', '--on=ketch', '--json', ...$more,
    );
    /** The file system of the machine as it is now, on a file. */
    $this->root = function (): string {
        $root = $this->scratch()->at('root.ext4');
        file_put_contents($root, substr(HypervisorAtWork::content($this->hypervisor, 'kelp', 'disk'), ROOT_AT, 30 << 20));
        $clean = new Process(['e2fsck', '-fn', $root]);
        expect([$clean->run(), $clean->getOutput()])->toBe([0, $clean->getOutput()]);

        return $root;
    };
    $this->digest = fn (): string => hash('sha256', HypervisorAtWork::content($this->hypervisor, 'kelp', 'disk'));
});

afterEach(function (): void {
    unset($this->hypervisor);
    $this->host->remove();
    expect($this->host->left())->toBe([])->and(glob(Instance::folder('tmp').'/machine-into-*'))->toBe([]);
});

/** What debugfs takes out of a file system. */
function takenOut(mixed $test, string $root, string $path): string
{
    $to = $test->scratch()->folder('taken-'.md5(uniqid()));
    (new Process(['debugfs', '-R', "rdump \"$path\" $to", $root]))->mustRun();

    return $to.'/'.basename($path);
}

it('brings a lost folder back into a machine that is off, with owners, modes, times and links', function (): void {
    $names = [...array_map(fn (int $i): string => "plan $i.csv", range(1, 30)), 'second name', 'id'];
    ($this->lose)(...[...array_map(fn (string $name): string => "rm \"/srv/plans/$name\"", $names), 'rmdir /srv/plans']);
    $told = ($this->into)('--path=/disk.2/srv/plans');
    expect([$told->code, $told->text])->toBe([0, $told->text])
        ->and($told->json()['files'])->toBe(32)
        ->and($told->json()['left_out'])->toBe([]);
    $root = ($this->root)();
    $out = takenOut($this, $root, '/srv/plans');
    $this->scratch()->run('diff', '-r', '--no-dereference', $this->scratch()->at('tree/srv/plans'), $out);
    $stat = (new Process(['debugfs', '-f', '-', $root], null, null, implode("\n", [
        'stat "/srv/plans/plan 3.csv"', 'stat "/srv/plans/plan 2.csv"', 'stat "/srv/plans/second name"', 'ea_list "/srv/plans/plan 3.csv"',
    ])."\n"))->mustRun()->getOutput();
    expect($stat)->toContain('User: 70001')->toContain('Mode:  04755')->toContain('mtime: 0x59682f00')->toContain('Links: 2')
        ->toContain('user.berth (4) = "nine"');
    // Twice the same changes nothing that is there.
    expect(($this->into)('--path=/disk.2/srv/plans', '--conflict=missing-only')->json()['left_out'])->toHaveCount(32);

    $run = Run::query()->orderBy('id')->firstOrFail();
    $this->actingAs($this->person(Role::Operator));
    $this->get("/runs/{$run->id}")->assertOk()->assertSee(['32 files into kelp at ketch', 'every file by digest, owner, mode, time']);
    $this->get("/runs/{$run->id}/page")->assertOk()->assertSee(['Files in it', 'ketch']);
    $this->get('/activity')->assertOk();
    $this->get('/proofs')->assertOk();
    expect($this->kaiseki('put-back', (string) Run::query()->max('id'))->code)->toBe(0);
    expect($this->kaiseki('put-back', (string) $run->id, '--json')->code)->toBe(4); // the second run wrote there since
});

it('puts back what it wrote over, bit by bit', function (): void {
    ($this->lose)('rm /etc/machine-id');
    $before = ($this->digest)();
    expect(($this->into)('--path=/disk.2/etc/machine-id')->code)->toBe(0)->and(($this->digest)())->not->toBe($before);
    expect($this->kaiseki('put-back', (string) Run::query()->max('id'))->code)->toBe(0)->and(($this->digest)())->toBe($before);
});

it('does with what stands there what was said, and goes to another folder of another name', function (): void {
    $other = $this->scratch()->file('other', "other\n");
    ($this->lose)('rm /etc/machine-id', "write $other /etc/machine-id");
    $told = ($this->into)('--path=/disk.2/etc/machine-id', '--conflict=missing-only');
    expect($told->json()['left_out'][0]['because'])->toBe('it is there');
    ($this->into)('--path=/disk.2/etc/machine-id'); // beside
    $etc = takenOut($this, ($this->root)(), '/etc');
    $names = array_values(array_diff(scandir($etc) ?: [], ['.', '..']));
    expect($names)->toHaveCount(2)->and(file_get_contents("$etc/machine-id"))->toBe("other\n")
        ->and(file_get_contents("$etc/{$names[1]}"))->toBe("4be1\n");
    ($this->into)('--path=/disk.2/etc/machine-id', '--conflict=rename-present');
    ($this->into)('--path=/disk.2/etc/machine-id', '--conflict=replace', '--to=/disk.2/var/back again');
    $root = ($this->root)();
    expect(file_get_contents(takenOut($this, $root, '/etc').'/machine-id'))->toBe("4be1\n")
        ->and(file_get_contents(takenOut($this, $root, '/var/back again').'/machine-id'))->toBe("4be1\n");
});

it('plays the journal back before it writes: what was in it is not lost, nor what is brought', function (): void {
    ($this->lose)('rm /etc/machine-id');
    preg_match('/\(0\):(\d+)|\(0-\d+\):(\d+)/', ($this->inside)('stat "/srv/plans/plan 1.csv"'), $m);
    $block = (int) (($m[2] ?? '') !== '' ? $m[2] : $m[1]);
    $newer = $this->scratch()->file('newer', str_pad("written last\n", 1024, '.'));
    ($this->lose)('jo', "jw -b $block $newer", 'jc');
    expect((new Process(['dumpe2fs', '-h', "{$this->raw}?offset=".ROOT_AT]))->mustRun()->getOutput())->toContain('needs_recovery');
    $told = ($this->into)('--path=/disk.2/etc/machine-id');
    expect([$told->code, $told->text])->toBe([0, $told->text]);
    $root = ($this->root)();
    expect((string) file_get_contents(takenOut($this, $root, '/srv/plans').'/plan 1.csv'))->toStartWith("written last\n")
        ->and(file_get_contents(takenOut($this, $root, '/etc').'/machine-id'))->toBe("4be1\n");
});

it('writes nothing where there is no room, where the file system is not whole, or while the machine runs', function (): void {
    $fill = $this->scratch()->file('fill', random_bytes(26 << 20));
    ($this->lose)('rm "/srv/plans/plan 9.csv"', "write $fill /fill");
    $before = ($this->digest)();
    $told = ($this->into)('--path=/disk.2/srv/plans', '--conflict=replace');
    expect($told->code)->toBe(4)->and($told->json()['error'])->toContain('are needed')->toContain('The machine is as it was')
        ->and(($this->digest)())->toBe($before);
    ($this->lose)('rm /fill', 'set_inode_field /etc links_count 9');
    $before = ($this->digest)();
    $told = ($this->into)('--path=/disk.2/srv/plans/plan 9.csv');
    expect($told->code)->toBe(4)->and($told->json()['error'])->toContain('must be repaired first')->and(($this->digest)())->toBe($before);
    $this->hypervisor->start('kelp');
    $told = ($this->into)('--path=/disk.2/srv/plans/plan 9.csv');
    expect($told->code)->toBe(4)->and($told->json()['error'])->toContain('no agent');
    $this->hypervisor->stop('kelp', true);
    foreach ([['--path=/disk.2/nothing'], ['--path=/disk.2/etc', '--to=/disk.7/x'], ['--path=/disk.2/etc', '--to=/disk.1/x']] as $wrong) {
        expect(($this->into)(...$wrong)->code)->toBeGreaterThan(2);
    }
});

it('is ordered on the worksheet, and is another order once the machine runs', function (): void {
    ($this->lose)('rm "/srv/plans/plan 7.csv"');
    $this->actingAs($operator = $this->person(Role::Operator));
    $request = RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->value('id'), 'requester_id' => $operator->id, 'summary' => 'A plan is gone',
        'reason' => 'It is needed', 'wanted_at' => now()->addMinute(), 'due_at' => now()->addHour(),
    ])->refresh();
    $url = "/requests/{$request->id}";
    $host = HypervisorHost::query()->value('id');
    $where = fn (array $more) => $this->post("$url/machine", ['settle' => 'where', 'to' => 'machine'] + $more);
    $sheet = fn (): MachineSheet => new MachineSheet($request->refresh());
    $where([])->assertSessionHasErrors('into');
    $where(['into' => 'kelp'])->assertSessionHasErrors('into');
    $where(['into' => "$host:kelp", 'inside' => '/../etc'])->assertSessionHasErrors('inside');
    $where(['into' => "$host:kelp"])->assertSessionHasNoErrors();
    $this->get("$url?show=where")->assertOk()->assertSee('kelp at ketch, off');
    expect($sheet()->blockers())->toBe(['Pick under What which files or folders are brought into it.']);
    $this->post("$url/machine", ['settle' => 'files', 'take' => 'disk.2%2Fsrv%2Fplans'])->assertSessionHasNoErrors();
    $this->post("$url/machine", ['settle' => 'how', 'format' => 'qcow2', 'conflict' => 'missing-only'])->assertSessionHasNoErrors();
    foreach (['what', 'when', 'where', 'how', 'preview', 'run'] as $show) {
        $this->get("$url?show=$show")->assertOk()->assertSee(['its own place in kelp at ketch', 'adding only what is missing']);
    }
    $off = $sheet();
    expect([$off->blockers(), $off->mayReplace(), $off->needsApproval()])->toBe([[], true, false]);
    Workload::query()->update(['needs_approval' => true]);
    expect($sheet()->needsApproval())->toBeTrue();
    Workload::query()->update(['needs_approval' => false]);

    // What was read on the page was of one that is off: with one that runs it is another order.
    $this->hypervisor->start('kelp');
    $this->post("$url/run", ['order' => $off->fingerprint()])->assertSessionHasErrors();
    $runs = $sheet();
    expect($runs->fingerprint())->not->toBe($off->fingerprint())->and($runs->blockers())->toBe([]);
    $where(['into' => "$host:kelp", 'inside' => '/srv/plans'])->assertSessionHasNoErrors();
    expect([$sheet()->blockers(), $sheet()->into()->isRunning])->toBe([[], true]);
    $this->get("$url?show=preview")->assertSee('while it runs, by its agent');
    $this->hypervisor->stop('kelp', true);

    $where(['into' => "$host:kelp"]);
    $this->post("$url/run", ['order' => $sheet()->fingerprint()])->assertSessionHasNoErrors();
    $run = Run::query()->sole();
    (new CarryOutRun($run->id))->handle();
    expect([$run->refresh()->outcome['files'] ?? $run->failure, $run->request_id])->toBe([1, $request->id]);
    $this->get("$url?show=proof")->assertOk()->assertSee('1 file into kelp at ketch');
    $found = takenOut($this, ($this->root)(), '/srv/plans/plan 7.csv');
    expect(file_get_contents($found))->toBe(file_get_contents($this->scratch()->at('tree/srv/plans/plan 7.csv')));
    $this->post("$url/machine", ['settle' => 'where', 'to' => 'new-folder'])->assertSessionHasNoErrors();
    expect($sheet()->into())->toBeNull();
});

it('offers first what came back lately', function (): void {
    $this->told(0, 'restore', 'kelp', '--at=2099-01-01T00:00:00Z', '--on=ketch', '--whole', '--name=wrasse');
    $this->host->machine('abalone');
    $this->kaiseki('hypervisor', 'list');
    $host = HypervisorHost::query()->sole();
    $host->look();
    $this->actingAs($operator = $this->person(Role::Operator));
    $request = RecoveryRequest::query()->create([
        'workload_id' => Workload::query()->value('id'), 'requester_id' => $operator->id, 'summary' => 'A plan is gone',
        'reason' => 'It is needed', 'wanted_at' => now()->addMinute(), 'due_at' => now()->addHour(),
    ]);
    $offered = fn (): array => (new MachineSheetView($request->refresh(), $operator, request()))->machines();
    expect(array_keys($offered()))->toBe(["{$host->id}:wrasse", "{$host->id}:abalone", "{$host->id}:kelp"])
        ->and($offered()["{$host->id}:wrasse"])->toContain('off, came back ')
        ->and($offered()["{$host->id}:kelp"])->toBe('kelp at ketch, off');
    // Files that were brought into a machine do not make it one that came back, and what came back long ago is nothing lately.
    $this->told(0, ...['restore', 'kelp', '--at=2099-01-01T00:00:00Z', '--into=kelp', '--on=ketch', '--path=/disk.2/srv']);
    expect($offered()["{$host->id}:kelp"])->toBe('kelp at ketch, off');
    Run::query()->update(['ended_at' => now()->subDays(8)]);
    expect(array_keys($offered()))->toBe(["{$host->id}:abalone", "{$host->id}:kelp", "{$host->id}:wrasse"]);
});
