<?php

declare(strict_types=1);

use App\Instance;
use App\Kinds\Kinds;
use App\Models\Approval;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\User;
use Illuminate\Foundation\Testing\RefreshDatabaseState;
use Illuminate\Support\Facades\Crypt;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Proof\SignedProof;
use Symfony\Component\Process\Process;
use Tests\Support\Desk;
use Tests\Support\Mariadb;

// A home as the version before kept it, gone on with by this one: what was decided, asked, queued and proven there holds here.
// How it was made: tests/Fixtures/home-13/MakeHome.php

/** Numbers begin at one again here, and what is kept by them is of other tests. */
function clearHome(): void
{
    (new Process(['rm', '-rf', Instance::path('runs'), Instance::path('index')]))->mustRun();
}

beforeEach(function (): void {
    $this->before = $this->scratch()->path;
    (new Process(['tar', '-xzf', __DIR__.'/../../Fixtures/home-13/home.tar.gz', '-C', $this->before]))->mustRun();
    $here = ['@@SCRATCH@@' => $this->before, '%40%40SCRATCH%40%40' => rawurlencode($this->before)];
    $sql = strtr((string) file_get_contents("$this->before/home.sql"), $here);
    DB::rollBack();
    $this->artisan('db:wipe', ['--force' => true]);
    (new Process(['mariadb', '--socket='.Instance::path('sql/db.sock'), 'kaiseki'], null, null, $sql))->mustRun();
    DB::reconnect();
    clearHome();
    foreach (['index', 'runs'] as $folder) {
        (new Process(['cp', '-a', "$this->before/$folder/.", Instance::folder($folder)]))->mustRun();
    }
    // What it keeps secret is encrypted with a key of its own.
    DB::table('database_servers')->update(['password' => Crypt::encryptString('another')]);
    $this->artisan('migrate', ['--force' => true]);
    $this->server = new Mariadb("$this->before/server");
    $this->server->exec(
        'CREATE DATABASE fares',
        'USE fares',
        'CREATE TABLE tickets (id INT PRIMARY KEY, price INT)',
        'INSERT INTO tickets VALUES (1, 0), (2, 0)',
    );
    $this->server->addTo($this, 'fares-db');
    $this->of = fn (string $summary): RecoveryRequest => RecoveryRequest::query()->where('summary', $summary)->firstOrFail();
    $this->operator = User::query()
        ->where('role', Role::Operator)
        ->firstOrFail()
        ->replicate()
        ->fill(['email' => 'second@sorrelsound.example']);
    $this->operator->save();
    $this->scratch()->folder('restored');
});

afterEach(function (): void {
    $this->server->stop();
    DB::reconnect();
    RefreshDatabaseState::$migrated = false;
    clearHome();
});

it('shows on every page of every open request what was decided', function (): void {
    $told = [
        'open, of files' => ['1 file', 'its own place', 'all in one folder'],
        'asked of a second person, of files' => ['its own place', 'nobody has answered yet'],
        'to be downloaded' => ['a download (tar.gz)'],
        'open, of a database' => ['then_again', 'right before'],
        'asked of a second person, of a database' => ['the rows that transaction', 'nobody has answered yet'],
    ];
    foreach ($told as $summary => $words) {
        $request = ($this->of)($summary);
        $shown = '';
        foreach (['when', 'what', 'where', 'how', 'preview', 'run', 'proof'] as $picker) {
            $shown .= $this->actingAs($this->operator)
                ->get("/requests/{$request->id}?show=$picker")
                ->assertOk()
                ->getContent();
        }
        foreach ($words as $one) {
            expect($shown)->toContain($one);
        }
    }
});

/** The fingerprint as that version made it: where the files lie, and their inodes, are others here. */
function fingerprintBefore(RecoveryRequest $request, string $live): string
{
    $seen = Kinds::ofRequest($request)->sheet($request)->preview(true)->fingerprint;
    $plan = [
        'paths' => ['tree%2Froster'],
        'target' => rawurlencode($live),
        'conflict' => 'replace',
        'date' => '2026-10-01 0200',
        'in_place' => true,
        'flat' => false,
        'keep_setid' => false,
        'across_points' => '',
        'use' => [],
        'avoid' => [],
        'host' => '',
        'rename_to' => '',
        'previewed' => $seen,
        'conflict_in' => [['tree%2Fnotes', 'missing-only']],
        'before' => [],
        'after' => [],
        'command_limit' => 300,
        'download' => '',
    ];
    $sentence = $request->approvals()->value('sentence');

    return hash('sha256', json_encode([$plan, $sentence, $request->workload->sets()->orderBy('instant')->value('id'), $seen]));
}

it('holds that what waits for a second person is the same order still, and a yes carries it out', function (): void {
    $this->artisan('queue:work', ['--queue' => 'runs', '--stop-when-empty' => true, '--memory' => 4096]);
    $ofFiles = ($this->of)('asked of a second person, of files');
    $ofFiles->approvals()->update(['order' => fingerprintBefore($ofFiles, "$this->before/live")]);
    foreach (Approval::query()->where('state', 'asked')->get() as $approval) {
        $this->actingAs($this->operator)
            ->get("/approvals/{$approval->id}")
            ->assertOk()
            ->assertDontSee('is another by now');
        $this->post("/approvals/{$approval->id}", Desk::yes("/approvals/{$approval->id}"))->assertSessionHasNoErrors();
        expect($approval->refresh()->state)->toBe('approved');
    }
    $this->artisan('queue:work', ['--queue' => 'runs', '--stop-when-empty' => true, '--memory' => 4096]);
    expect(file_get_contents("$this->before/live/tree/roster"))
        ->toBe('Ann Monday')
        ->and($this->server->rows('SELECT price FROM fares.tickets ORDER BY id'))
        ->toBe([['price' => '8'], ['price' => '9']]);
});

it('carries out what was queued', function (): void {
    $this->artisan('queue:work', ['--queue' => 'runs', '--stop-when-empty' => true, '--memory' => 4096]);
    foreach (['queued, of files', 'queued, of a database'] as $summary) {
        $run = ($this->of)($summary)->runs->first();
        expect([$run->state, $run->failure, $run->outcome['right'] ?? null])->toBe(['done', null, true], $summary);
    }
    expect($this->server->rows('SELECT price FROM later.tickets ORDER BY id'))->toBe([['price' => '8'], ['price' => '9']]);
});

it('holds that what a browser is to take is there to be taken', function (): void {
    $run = ($this->of)('to be downloaded')->runs->first();
    $tar = $this->actingAs($this->operator)
        ->get("/runs/{$run->id}/download")
        ->assertOk()
        ->streamedContent();
    expect(gzdecode($tar))->toContain('alpha');
});

it('holds that a run that was done is put back, and one that failed late can be', function (): void {
    $done = Run::query()->where('state', 'done')->orderBy('id')->first();
    expect($this->kaiseki('put-back', (string) $done->id)->code)->toBe(0)->and(file_exists("$this->before/out/tree/notes/a"))->toBeFalse();
    $failed = Run::query()->where('state', 'failed')->firstOrFail();
    $this->actingAs($this->operator)
        ->get("/runs/{$failed->id}")
        ->assertOk()
        ->assertSee('Yes, undo run');
});

it('reads old proofs, which are as they were signed', function (): void {
    foreach (Run::query()->where('state', 'done')->get() as $run) {
        $file = Instance::path("runs/{$run->id}/proof.json");
        $key = $this->scratch()->file('key', base64_encode(SignedProof::parse((string) file_get_contents($file))->publicKey));
        expect($this->kaiseki('check-proof', $file, "--key=$key")->code)->toBe(0);
        $this->actingAs($this->operator)
            ->get("/runs/{$run->id}/page")
            ->assertOk()
            ->assertSee("Proof of run {$run->id}")
            ->assertDontSee('it was changed');
        $this->get("/runs/{$run->id}")
            ->assertOk()
            ->assertSee('Proven');
    }
});
