<?php

declare(strict_types=1);

use App\Models\BackupSet;
use App\Models\Consent;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\TrailEntry;
use App\Models\Workload;
use App\Sets\LeftOut;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Instant;
use Kaiseki\StandIns\FileHost;
use Symfony\Component\Process\Process;
use Tests\Support\Desk;
use Tests\Support\TreeListing;

/*
 * What is settled to be left out of the sets of a workload: it is in none that is made from then on, each of them says so, nothing takes it
 * for deleted, and what stands there stays, also where plain tar puts a set over it.
 */

beforeEach(function (): void {
    $this->host = new FileHost($this->scratch()->path.'/host');
    $files = ['logs/old/1' => 'one', 'logs/old/2' => 'two', 'logs/new' => 'new', 'roster' => 'of monday', 'a.tmp' => 'passing'];
    foreach ($files as $path => $bytes) {
        $this->scratch()->file("host/files/$path", $bytes);
    }
    $this->host->setClock(Instant::parse('2026-11-12T02:10:00Z'));
    $this->told(0, 'protect', 'crew', "--source={$this->host->root()}", '--level=full');
    $this->workload = Workload::query()->sole();
    $this->care = "/workloads/{$this->workload->id}/care";
    // One more set of the next night, and what it is called.
    $this->night = function (string $level = 'incr'): BackupSet {
        static $day = 12;
        $day++;
        $this->host->setClock(Instant::parse("2026-11-{$day}T02:10:00Z"));
        $this->told(0, 'protect', 'crew', "--level=$level");

        return BackupSet::query()->orderByDesc('instant')->firstOrFail();
    };
    // What a point gives back.
    $this->back = function (BackupSet $set): array {
        $to = $this->scratch()->path."/back-{$set->id}";
        $this->told(0, 'restore', 'crew', "--point={$set->name}", '--path=/', "--to=$to");
        $names = array_map(fn ($of): string => substr((string) $of, strlen($to) + 1), iterator_to_array(
            new RecursiveIteratorIterator(new RecursiveDirectoryIterator($to, FilesystemIterator::SKIP_DOTS)), false,
        ));
        sort($names);

        return $names;
    };
});

it('leaves out what is settled from then on, and has what was there before at the points before', function (): void {
    $first = BackupSet::query()->sole();
    $this->told(0, 'exclude', 'crew', '/logs/old', '--because=the pier keeps them');
    $told = $this->told(0, 'exclude', 'crew', '*.tmp', '--because=passing');
    expect(array_column($told['excluded'], 'pattern'))->toBe(['*.tmp', '/logs/old']);
    $this->scratch()->file('host/files/roster', 'of tuesday');
    $second = ($this->night)();
    expect(($this->back)($first))->toBe(['a.tmp', 'logs/new', 'logs/old/1', 'logs/old/2', 'roster'])
        ->and(($this->back)($second))->toBe(['logs/new', 'roster'])
        ->and(LeftOut::ofSet($second)->words())->toBe('"*.tmp" (passing), "/logs/old" (the pier keeps them)')
        ->and(LeftOut::ofSet($first)->all)->toBe([])
        ->and($second->cataloged)->toBe('whole')
        ->and($second->remarks ?? [])->toBe([])
        ->and($second->measures['removed'])->toBe(0)
        ->and($second->measures['files_before'])->toBe(2);
    $full = ($this->night)('full');
    expect(($this->back)($full))->toBe(['logs/new', 'roster']);
    // In again: it is stored anew, since no set of this chain has it.
    $this->told(0, 'exclude', 'crew', '/logs/old', '--remove');
    $this->told(0, 'exclude', 'crew', '*.tmp', '--remove');
    expect(($this->back)(($this->night)()))->toBe(['a.tmp', 'logs/new', 'logs/old/1', 'logs/old/2', 'roster']);
    expect(TrailEntry::query()->where('what', 'like', 'Sets of crew%leave out%')->count())->toBe(4);
});

it('is the same catalog from manifests, and from archives alone', function (): void {
    $this->told(0, 'exclude', 'crew', '/logs/old', '--because=the pier keeps them');
    $sets = [($this->night)(), ($this->night)('full'), ($this->night)()];
    $versions = fn (): array => array_map(fn (object $row): array => (array) $row, DB::select(
        'SELECT HEX(v.digest) AS digest, v.kind, v.size, v.first, v.until, p.name FROM versions v JOIN paths p ON p.id = v.path_id '.
            'ORDER BY v.first, p.name, v.until',
    ));
    $names = fn (): array => BackupSet::query()->orderBy('instant')->get()
        ->map(fn (BackupSet $set): array => [$set->name, $set->cataloged, LeftOut::ofSet($set)->words()])->all();
    [$before, $said] = [$versions(), $names()];
    expect(array_column($before, 'kind'))->toContain('x');
    foreach ([[], ['--read-archives']] as $how) {
        $lost = ['signs', 'doubts', 'copies', 'sets', 'histories', 'workloads', 'versions', 'paths', 'folder_totals', 'checks'];
        array_map(fn (string $table): int => DB::table($table)->delete(), $lost);
        $this->told(0, 'catalog', 'rebuild', '--store=boathouse', ...$how);
        expect($names())->toBe($said)->and(array_column($versions(), 'kind'))->toBe(array_column($before, 'kind'));
    }
    expect(TreeListing::of($this->host->root(), links: false))->not->toBe([])->and($sets)->toHaveCount(3);
});

it('does not have plain tar remove what stands there, nor Kaiseki', function (): void {
    $this->told(0, 'exclude', 'crew', '/logs/old', '--because=the pier keeps them');
    $this->scratch()->file('host/files/roster', 'of tuesday');
    $set = ($this->night)();
    $this->scratch()->file('host/files/logs/old/3', 'three');
    $store = (string) $set->copies()->firstOrFail()->store->root;
    foreach (BackupSet::query()->orderBy('instant')->get() as $one) {
        if ($one->level === 'incr') {
            (new Process(
                ['tar', '--listed-incremental=/dev/null', '-xzf', "$store/{$one->copies()->firstOrFail()->path}"], $this->host->root(),
            ))->mustRun();
        }
    }
    expect(file_get_contents("{$this->host->root()}/logs/old/3"))->toBe('three')
        ->and(file_get_contents("{$this->host->root()}/roster"))->toBe('of tuesday');
    $this->told(0, 'restore', 'crew', "--point={$set->name}", '--path=/logs', '--in-place', '--conflict=replace');
    expect(file_get_contents("{$this->host->root()}/logs/old/3"))->toBe('three');
});

it('says of a point what it leaves out, and of what is asked for that it is left out', function (): void {
    $this->told(0, 'exclude', 'crew', '/logs/old', '--because=the pier keeps them');
    $set = ($this->night)();
    $given = $this->kaiseki('points', 'crew', '--json')->text;
    expect($this->told(0, 'find', 'crew', 'nothing-of-that-name')['notes'])->toBe([
        'Left out of its sets on purpose: "/logs/old" (the pier keeps them).',
    ])->and($given)->toContain($set->name);
    $operator = $this->person(Role::Operator);
    $this->actingAs($operator)->get("/sets/{$set->id}")->assertSee('Left out on purpose')->assertSee('the pier keeps them');
    $request = RecoveryRequest::query()->create([
        'workload_id' => $this->workload->id, 'requester_id' => $operator->id, 'summary' => 'x', 'reason' => 'y', 'lost' => '/logs/old/1',
        'wanted_at' => '2026-11-20 12:00:00', 'due_at' => now()->addHour(),
    ]);
    $what = "/requests/{$request->id}?show=what";
    $this->get($what)->assertSee('It is left out of this point on purpose')->assertSee('the pier keeps them');
    $request->update(['lost' => '/roster']);
    $this->get($what)->assertSee('Left out of this point on purpose')->assertDontSee('It is left out');
});

it('is settled on the page of its care, and waits for a second person where the workload is marked', function (): void {
    $operator = $this->person(Role::Operator);
    $this->actingAs($operator)->get($this->care)->assertOk()->assertSee('Nothing is left out');
    $url = "/workloads/{$this->workload->id}/exclusions";
    $rule = ['do' => 'add', 'pattern' => '/logs/old', 'because' => 'the pier keeps them'];
    $this->post($url, ['pattern' => 'logs/old'] + $rule)->assertSessionHasErrors('pattern');
    $this->post($url, ['because' => ''] + $rule)->assertSessionHasErrors('because');
    $this->post($url, $rule)->assertSessionHasNoErrors();
    $this->get($this->care)->assertSee('/logs/old')->assertSee('the pier keeps them');
    $this->post($url, ['do' => 'end', 'pattern' => '/logs/old'])->assertSessionHasNoErrors();
    $this->post($url, ['do' => 'end', 'pattern' => '/logs/old'])->assertSessionHasErrors('pattern');
    $this->workload->update(['needs_approval' => true]);
    $this->post($url, $rule)->assertSessionHasNoErrors();
    expect(LeftOut::of($this->workload)->all)->toBe([])
        ->and(Consent::query()->sole()->words)->toContain('"/logs/old" (the pier keeps them)')
        ->and($this->kaiseki('exclude', 'crew', '*.tmp', '--because=x')->code)->toBe(3);
    $consent = '/consents/'.Consent::query()->value('id');
    $this->actingAs($this->person(Role::Approver))->post($consent, Desk::yes($consent))->assertSessionHasNoErrors();
    expect(LeftOut::of($this->workload)->words())->toBe('"/logs/old" (the pier keeps them)');
    $this->actingAs($this->person(Role::Operator, ['piers']))->post($url, $rule)->assertForbidden();
    $adopted = Workload::query()->create(['name' => 'adopted', 'kind' => 'files']);
    expect($this->kaiseki('exclude', 'adopted', '*.tmp', '--because=x')->code)->toBe(2);
    $this->actingAs($operator)->get("/workloads/{$adopted->id}/care")->assertDontSee('left out');
});
