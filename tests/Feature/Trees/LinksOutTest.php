<?php

declare(strict_types=1);

use App\Hosts\HostBin;
use App\Jobs\TakeFromBin;
use App\Kinds\Files\Order\FilesSaid;
use App\Models\Host;
use App\Models\Run;
use App\Models\Workload;
use App\Orders\Approvals;
use App\Orders\CannotOrder;
use App\Trees\Run\RunCarrier;
use App\Trees\Run\Targets;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\PlainLook;
use Kaiseki\Core\Files\UnableToRestore;
use Tests\Support\Archives;
use Tests\Support\Desk;
use Tests\Support\TreeListing;

// Whoever may write to a share puts a link into it, and has the desk write, read or look where it leads.

beforeEach(function (): void {
    $this->desk = new Desk(
        $this, fn (Archives $a) => $a->put('job', '* * * * * root evil')->put('sub/file', 'inner'),
        fn (Archives $a) => $a->put('job', '* * * * * root evil'),
    );
    $this->outside = $this->scratch()->folder('etc/cron.d');
    $this->scratch()->file('etc/cron.d/harbour-list', 'stays');
    $this->other = $this->scratch()->folder('hosts/payroll/files');
    Workload::query()->create(['name' => 'payroll', 'kind' => 'files', 'group' => 'office', 'source' => $this->other]);
    $this->before = TreeListing::of($this->outside);
    $this->untouched = fn () => expect(TreeListing::of($this->outside))->toBe($this->before)->and(glob("{$this->other}/*") ?: [])->toBe([]);
    $this->ordered = function (): Run {
        $run = Approvals::order($this->desk->request->refresh(), $this->desk->operator, $this->desk->order(), false);
        assert($run instanceof Run);

        return $run;
    };
});

it('does not restore through a link in the share', function (string $folder, callable $make): void {
    $make($this);
    $this->desk->into('folder', ['tree'], 'replace', $folder);
    expect($this->ordered)->toThrow(CannotOrder::class, 'link');
    $this->actingAs($this->desk->operator)->get("{$this->desk->url}?show=preview")->assertOk()->assertDontSee('harbour-list');
    ($this->untouched)();
})->with([
    'to a folder of the system' => ['jobs', fn (object $t) => symlink($t->outside, "{$t->desk->live}/jobs")],
    'to another workload' => ['pay', fn (object $t) => symlink($t->other, "{$t->desk->live}/pay")],
    'further down' => [
        'a/jobs/deep',
        fn (object $t) => mkdir("{$t->desk->live}/a") && symlink(dirname($t->outside), "{$t->desk->live}/a/jobs"),
    ],
]);

it('does not restore through a link that was put there after the order was given', function (string $when): void {
    mkdir("{$this->desk->live}/jobs");
    $this->desk->into('folder', ['tree'], 'replace', 'jobs');
    $run = ($this->ordered)();
    if ($when === 'put back') {
        (new RunCarrier)->carryOut($run->refresh());
        expect($run->refresh()->state)->toBe('done');
        $this->scratch()->folder('etc/cron.d/tree');
        file_put_contents("{$this->outside}/tree/job", '* * * * * root evil');
        touch("{$this->outside}/tree/job", 1_790_000_000);
        $this->before = TreeListing::of($this->outside);
    }
    rename("{$this->desk->live}/jobs", "{$this->desk->live}/was");
    symlink($this->outside, "{$this->desk->live}/jobs");
    if ($when === 'put back') {
        expect(fn () => (new RunCarrier)->putBack($run->refresh()))->toThrow(UnableToRestore::class, 'link');
    } else {
        (new RunCarrier)->carryOut($run->refresh());
        expect($run->refresh()->state)->toBe('failed')->and($run->failure)->toContain('link');
    }
    ($this->untouched)();
})->with(['run', 'put back']);

it('does not make a new folder through a link beside the share', function (): void {
    symlink($this->outside, dirname($this->desk->live).'/restored');
    $this->desk->into('new-folder', ['tree']);
    try {
        (new RunCarrier)->carryOut(($this->ordered)());
        expect(Run::query()->value('state'))->toBe('failed');
    } catch (CannotOrder) {
        // told before
    }
    ($this->untouched)();
});

it('stays in the folder of a host', function (): void {
    $given = $this->scratch()->folder('given');
    symlink($this->outside, "$given/jobs");
    $host = Host::query()->create(['name' => 'other', 'kind' => 'folder', 'folder' => $given, 'site' => 'boathouse']);
    $this->desk->into('host', ['tree'], 'replace', 'jobs');
    $this->desk->say(fn (FilesSaid $said): FilesSaid => $said->with(host: $host->id));
    expect($this->ordered)->toThrow(CannotOrder::class);
    ($this->untouched)();
    $answer = $this->kaiseki(
        'restore', 'crew', '--at=2026-12-01T00:00:00Z', '--path=/', '--host=other', '--to=/jobs', '--conflict=replace',
        '--json',
    );
    expect($answer->code)->not->toBe(0);
    ($this->untouched)();
    expect(Targets::root($host, "$given/x"))->toBe($given)
        ->and(fn () => FolderBelow::open('/etc', $given))->toThrow(UnableToRestore::class)
        ->and(fn () => FolderBelow::open("$given/../etc", $given))->toThrow(UnableToRestore::class);
});

it('stays in the folder that was named on the command line', function (): void {
    $to = $this->scratch()->folder('to');
    symlink($this->outside, "$to/tree");
    $answer = $this->kaiseki('restore', 'crew', '--at=2026-12-01T00:00:00Z', '--path=/', "--to=$to", '--conflict=replace', '--json');
    ($this->untouched)();
    expect($answer->code)->toBeIn([0, 4]);
    $through = $this->kaiseki(
        'restore', 'crew', '--at=2026-12-01T00:00:00Z', '--path=/', "--to={$this->desk->live}/jobs",
        '--conflict=replace',
    );
    symlink($this->outside, "{$this->desk->live}/cron");
    $through = $this->kaiseki(
        'restore', 'crew', '--at=2026-12-01T00:00:00Z', '--path=/', "--to={$this->desk->live}/cron",
        '--conflict=replace', '--json',
    );
    expect($through->code)->toBe(3)->and($through->json()['error'])->toContain('link');
    ($this->untouched)();
});

it('neither shows nor compares what lies behind a link', function (): void {
    symlink($this->outside, "{$this->desk->live}/jobs");
    symlink("{$this->outside}/harbour-list", "{$this->desk->live}/read");
    $look = new PlainLook($this->desk->live);
    expect($look->names('jobs'))->toBe([])
        ->and($look->read('read'))->toBeNull()
        ->and($look->read('jobs/harbour-list'))->toBeNull()
        ->and($look->digest('read'))->toBeNull()
        ->and($look->status('jobs/harbour-list'))->toBeNull();
    expect((new PlainLook("{$this->desk->live}/jobs", $this->desk->live))->names(''))->toBe([]);
    $this->actingAs($this->desk->operator)->get("{$this->desk->url}?show=where&look=jobs")->assertOk()->assertDontSee('harbour-list');
    $this->actingAs($this->desk->operator)
        ->get('/workloads/'.$this->desk->request->workload_id.'/compare?path=jobs%2Fharbour-list')
        ->assertDontSee('stays');
});

it('takes nothing out of a bin through a link, and reads no list through one', function (): void {
    $bin = "{$this->desk->live}/.Trash-0";
    mkdir("$bin/info", 0755, true);
    mkdir("$bin/files", 0755, true);
    file_put_contents("$bin/files/job", '* * * * * root evil');
    file_put_contents("$bin/info/job.trashinfo", "[Trash Info]\nPath=jobs/job\nDeletionDate=2026-10-01T10:00:00\n");
    file_put_contents($this->scratch()->path.'/secret', "[Trash Info]\nPath=secret\nDeletionDate=2026-10-01T10:00:00\n");
    symlink($this->scratch()->path.'/secret', "$bin/info/stolen.trashinfo");
    file_put_contents("$bin/files/stolen", 'x');
    symlink($this->outside, "{$this->desk->live}/jobs");
    expect(array_map(fn ($entry): string => $entry->path, HostBin::of(new PlainLook($this->desk->live), 'UTC')))->toBe(['jobs/job']);
    (new TakeFromBin($this->desk->request->id, rawurlencode('.Trash-0/files/job'), $this->desk->operator->id))->handle();
    ($this->untouched)();
    expect(file_exists("$bin/files/job"))->toBeTrue();
});

it('opens no closed folder: a new one is nobody else\'s, and what is laid out flat keeps whom its folders kept out', function (): void {
    $archives = (new Archives($this->scratch()))->put('private/plan', 'a plan')->put('open/note', 'a note');
    chmod("{$archives->source}/private", 0700);
    chmod("{$archives->source}/private/plan", 0644);
    chmod("{$archives->source}/open/note", 0644);
    chmod("{$archives->source}/open", 0755);
    chmod($archives->source, 0755);
    $this->scratch()->folder('closed');
    $this->scratch()->run(
        'tar', '-czf', 'closed/tree.full.20261105T020000Z.tar.gz', '--format=posix', '--listed-incremental=closed.snar',
        '-C', dirname($archives->source), 'tree',
    );
    $this->kaiseki('adopt', $this->scratch()->path.'/closed', '--as=closed-tree');
    $out = $this->scratch()->path.'/new';
    expect($this->kaiseki('restore', 'closed-tree', '--at=2026-12-01T00:00:00Z', '--path=/', "--to=$out")->code)->toBe(0);
    expect(fileperms($out) & 0777)->toBe(0700);
    $flat = $this->scratch()->folder('flat');
    expect($this->kaiseki('restore', 'closed-tree', '--at=2026-12-01T00:00:00Z', '--path=/', "--to=$flat", '--flat')->code)->toBe(0);
    expect(fileperms("$flat/plan") & 0777)->toBe(0600)->and(fileperms("$flat/note") & 0777)->toBe(0644);
});
