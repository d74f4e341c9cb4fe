<?php

declare(strict_types=1);

use App\Instance;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Workload;
use App\Orders\Approvals;
use App\Orders\Sheets;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Process\Process;
use Tests\Support\Archives;
use Tests\Support\Mariadb;
use Tests\TestCase;

// Made home.tar.gz, a home in small as the version of 28 November 2026 (commit 6c4b13e) kept it. To make it again, check that commit out,
// copy this folder into it, and run: bin/test tests/Fixtures/home-13/MakeHome.php
// What is in it is told in HomeBeforeTest. Paths of this machine are written as @@SCRATCH@@ and, percent-encoded, as %40%40SCRATCH%40%40.

uses(TestCase::class);

it('makes a home of this version', function (): void {
    config(['queue.default' => 'database']);
    $this->artisan('migrate:fresh', ['--force' => true]);
    $scratch = $this->scratch();

    $archives = new Archives($scratch);
    $archives->put('roster', 'Ann Monday')->put('notes/a', 'alpha')->put('notes/b', 'beta')->dump('full');
    $archives->put('roster', 'Ann Tuesday')->delete('notes/b')->dump('incr');
    expect($this->kaiseki('adopt', $archives->folder, '--as=crew')->code)->toBe(0);
    $live = $scratch->folder('live');
    $scratch->file('live/tree/roster', 'spoilt');
    Workload::query()
        ->where('name', 'crew')
        ->update(['source' => $live, 'group' => 'crew office', 'needs_approval' => true]);
    expect(
        $this->kaiseki('restore', 'crew', '--at=2026-10-01T12:00:00Z', '--path=tree/notes', "--to={$scratch->folder('out')}")->code,
    )->toBe(0);

    $server = new Mariadb("{$scratch->path}/server");
    $server->exec(
        'CREATE DATABASE fares',
        'USE fares',
        'CREATE TABLE tickets (id INT PRIMARY KEY, price INT)',
        'INSERT INTO tickets VALUES (1, 8), (2, 9)',
    );
    $backup = $scratch->folder('backup');
    $server->addTo($this, 'fares-db');
    $server->dump("$backup/fares.sql", 'fares');
    $server->exec('UPDATE tickets SET price = 0');
    $gtid = $server->gtid();
    $server->copyLogs($backup);
    $server->dump("$scratch->path/live.sql", '--databases', 'fares');
    expect($this->kaiseki('adopt', $backup, '--as=fares-db', '--kind=database')->code)->toBe(0);
    Workload::query()
        ->where('name', 'fares-db')
        ->update(['group' => 'piers', 'needs_approval' => true]);
    $beside = $this->kaiseki('restore', 'fares-db', "--before=$gtid", '--schema=then', '--json');
    expect($beside->code)->toBe(0, $beside->text);

    $oona = $this->person(Role::Requester);
    $ines = $this->person(Role::Operator);
    $crew = Workload::query()->where('name', 'crew')->value('id');
    $fares = Workload::query()->where('name', 'fares-db')->value('id');
    $ask = fn (int $workload, string $summary, array $more): RecoveryRequest => RecoveryRequest::query()
        ->create(
            [
                'workload_id' => $workload,
                'requester_id' => $oona->id,
                'summary' => $summary,
                'reason' => 'Needed',
                'wanted_at' => '2026-10-01 12:00:00',
                'due_at' => '2030-01-01 12:00:00',
            ] + $more,
        )
        ->refresh();
    $ask($crew, 'open, of files', [
        'selection' => ['tree/roster'],
        'destination' => 'own-place',
        'conflict' => 'missing-only',
        'flat' => true,
    ]);
    $asked = $ask($crew, 'asked of a second person, of files', [
        'selection' => ['tree/roster'],
        'destination' => 'own-place',
        'conflict' => 'replace',
        'conflict_in' => ['tree/notes' => 'missing-only'],
    ]);
    Approvals::order($asked, $ines, Sheets::of($asked)->fingerprint(), false);
    $queued = $ask($crew, 'queued, of files', ['selection' => ['tree/notes'], 'destination' => 'new-folder']);
    Approvals::order($queued, $ines, Sheets::of($queued)->fingerprint(), false);
    $download = $ask($crew, 'to be downloaded', ['selection' => ['tree/notes'], 'destination' => 'download-tar']);
    Approvals::order($download, $ines, Sheets::of($download)->fingerprint(), false);
    $ask($fares, 'open, of a database', ['database' => ['before' => $gtid, 'schema' => 'then_again']]);
    $rows = $ask($fares, 'asked of a second person, of a database', ['database' => ['rows-of' => $gtid]]);
    Approvals::order($rows, $ines, Sheets::of($rows)->fingerprint(), false);
    $later = $ask($fares, 'queued, of a database', ['database' => ['before' => $gtid, 'schema' => 'later']]);
    Approvals::order($later, $ines, Sheets::of($later)->fingerprint(), false);
    // A run that failed after the tables had changed places: told by words of its failure.
    DB::table('runs')->insert(
        (array) DB::table('runs')
            ->where('workload_id', $fares)
            ->where('state', 'done')
            ->select('workload_id', 'set_id', 'set_name', 'point_at', 'plan', 'created_at', 'updated_at')
            ->first() + [
                'state' => 'failed',
                'failure' => 'It ended. Tables had changed places before that; what was there is in the set-aside, and can be put back.',
            ],
    );
    $failed = DB::table('runs')->orderByDesc('id')->first();
    DB::table('runs')
        ->where('id', $failed->id)
        ->update([
            'plan' => json_encode(['way' => 'in-place', 'schemas' => ['fares' => 'fares']] + json_decode($failed->plan, true)),
        ]);
    expect(DB::table('jobs')->count())
        ->toBe(2)
        ->and(DB::table('approvals')->where('state', 'asked')->count())
        ->toBe(2);

    $home = $scratch->folder('home');
    $socket = Instance::path('sql/db.sock');
    $dump = new Process(['mariadb-dump', "--socket=$socket", '--skip-extended-insert', '--skip-dump-date', '--hex-blob', 'kaiseki']);
    $sql = $dump->mustRun()->getOutput();
    $sql = str_replace(
        [$scratch->path, rawurlencode($scratch->path), str_replace('/', '\\\\/', $scratch->path)],
        ['@@SCRATCH@@', '%40%40SCRATCH%40%40', '@@SCRATCH@@'],
        $sql,
    );
    expect($sql)->not->toContain(basename($scratch->path));
    file_put_contents("$home/home.sql", $sql);
    foreach (DB::table('sets')->pluck('id') as $id) {
        @mkdir("$home/index");
        foreach (glob(Instance::path("index/$id.*")) ?: [] as $file) {
            copy($file, "$home/index/".basename($file));
        }
    }
    foreach (glob(Instance::path('runs')) ?: [] as $folder) {
        (new Process(['cp', '-a', $folder, $home]))->mustRun();
    }
    foreach (['archives', 'backup', 'live', 'live.sql', 'out'] as $name) {
        (new Process(['cp', '-a', "$scratch->path/$name", $home]))->mustRun();
    }
    (new Process(['tar', '-C', $home, '-czf', __DIR__.'/home.tar.gz', '--sort=name', '--owner=0', '--group=0', '.']))->mustRun();
    $server->stop();
});
