<?php

declare(strict_types=1);

use App\Kinds\Databases\Order\DatabaseSaid;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\Workload;
use Tests\Support\Archives;
use Tests\Support\Desk;
use Tests\Support\Golden;
use Tests\Support\Mariadb;

// What is shown and answered for each kind, word for word: see Tests\Support\Golden.

const PICKERS = ['when', 'what', 'where', 'how', 'preview', 'run', 'proof'];

function command(object $test, string $name, string ...$arguments): void
{
    $answer = $test->kaiseki(...$arguments);
    Golden::holds($name, "exit {$answer->code}\n{$answer->text}");
}

/** @param  list<string>  $parts */
function pages(object $test, string $prefix, array $parts): void
{
    foreach ($parts as $name => $address) {
        Golden::holds("$prefix-$name", (string) $test->get($address)->assertOk()->getContent(), true);
    }
}

it('shows and answers files as before', function (): void {
    $this->travelTo('2026-10-03 12:00:00');
    $desk = new Desk(
        $this,
        fn (Archives $a) => $a->put('roster', 'Ann')->put('notes/a', 'alpha'),
        fn (Archives $a) => $a->put('roster', 'Ann and Bo')->delete('notes/a'),
    );
    file_put_contents("{$desk->live}/roster", 'spoilt');
    $desk->into('own-place', ['tree/roster'], 'replace');
    $out = $this->scratch()->folder('out');
    command($this, 'files-points', 'points', 'crew', '--at=2026-10-02T12:00:00Z', '--json');
    command($this, 'files-plan', 'plan', 'crew', '--at=2026-10-02T12:00:00Z', '--path=tree/roster', '--json');
    command($this, 'files-preview', 'preview', 'crew', '--at=2026-10-02T12:00:00Z', '--path=tree/roster', "--to=$out", '--json');
    command(
        $this,
        'files-dry-run',
        'restore',
        'crew',
        '--at=2026-10-02T12:00:00Z',
        '--path=tree/roster',
        "--to=$out",
        '--dry-run',
        '--json',
    );
    command($this, 'files-restore', 'restore', 'crew', '--at=2026-10-02T12:00:00Z', '--path=tree/roster', "--to=$out", '--json');
    $run = Run::query()->sole();
    command($this, 'files-proof', 'proof', (string) $run->id, '--json');
    command($this, 'files-hand-sheet', 'hand-sheet', 'crew', '--at=2026-10-02T12:00:00Z', '--path=tree/roster');
    $this->actingAs($desk->operator);
    pages($this, 'files-request', array_combine(PICKERS, array_map(fn (string $picker): string => "{$desk->url}?show=$picker", PICKERS)));
    pages($this, 'files', [
        'workload' => "/workloads/{$desk->request->workload_id}",
        'care' => "/workloads/{$desk->request->workload_id}/care",
        'set' => "/sets/{$desk->set(0)->id}",
        'run' => "/runs/{$run->id}",
        'proof-page' => "/runs/{$run->id}/page",
        'estate' => '/estate',
        'desk' => '/',
        'proofs' => '/proofs',
    ]);
    command($this, 'files-put-back', 'put-back', (string) $run->id, '--json');
});

it('shows and answers databases as before', function (): void {
    $server = new Mariadb($this->scratch()->path.'/server');
    $server->exec(
        'CREATE DATABASE fares',
        'USE fares',
        'CREATE TABLE tickets (id INT PRIMARY KEY, price INT)',
        'INSERT INTO tickets VALUES (1, 8), (2, 9)',
    );
    $backup = $this->scratch()->folder('backup');
    $server->addTo($this, 'fares-db');
    $server->dump("$backup/fares.sql", 'fares');
    $server->exec('UPDATE tickets SET price = 0');
    $gtid = $server->gtid();
    $server->copyLogs($backup);
    $this->kaiseki('adopt', $backup, '--as=fares-db', '--kind=database');
    command($this, 'database-points', 'points', 'fares-db', '--json');
    command($this, 'database-dry-run', 'restore', 'fares-db', "--before=$gtid", '--schema=then', '--dry-run', '--json');
    command($this, 'database-restore', 'restore', 'fares-db', "--rows-of=$gtid", '--json');
    $run = Run::query()->sole();
    command($this, 'database-proof', 'proof', (string) $run->id, '--json');
    command($this, 'database-hand-sheet', 'hand-sheet', 'fares-db');
    $workload = Workload::query()->sole();
    $operator = $this->person(App\Models\Role::Operator);
    $request = RecoveryRequest::query()->create([
        'workload_id' => $workload->id,
        'requester_id' => $operator->id,
        'summary' => 'Prices are gone',
        'reason' => 'Needed',
        'wanted_at' => now()->addMinute(),
        'due_at' => now()->addHour(),
    ]);
    (new DatabaseSaid(['before' => $gtid, 'schema' => 'then']))->keepOn($request)->save();
    $this->actingAs($operator)->post("/requests/{$request->id}/database/look", ['look' => 'server', 'show' => 'when'])->assertRedirect();
    pages(
        $this,
        'database-request',
        array_combine(PICKERS, array_map(fn (string $picker): string => "/requests/{$request->id}?show=$picker", PICKERS)),
    );
    pages($this, 'database', [
        'workload' => "/workloads/{$workload->id}",
        'care' => "/workloads/{$workload->id}/care",
        'set' => '/sets/'.BackupSet::query()->where('level', 'full')->value('id'),
        'run' => "/runs/{$run->id}",
        'proof-page' => "/runs/{$run->id}/page",
    ]);
    command($this, 'database-put-back', 'put-back', (string) $run->id, '--json');
    $server->stop();
});
