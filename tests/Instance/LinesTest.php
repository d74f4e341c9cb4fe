<?php

declare(strict_types=1);

use Symfony\Component\Process\Process;
use Tests\Support\Instance;
use Tests\Support\Scratch;

// All that carry out runs are stopped, as if each had hours of work: what falls due meanwhile is seen to all the same.

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->busy = [];
    preg_match_all('/^workers:runs_\d+\s+RUNNING\s+pid (\d+)/m', Instance::control('status'), $found);
    foreach ($found[1] as $pid) {
        posix_kill((int) $pid, SIGSTOP);
        $this->busy[] = (int) $pid;
    }
    $this->clock = fn () => (new Process([PHP_BINARY, 'artisan', 'schedule:run'], dirname(__DIR__, 2), [
        'KAISEKI_HOME' => Instance::home(),
        'KAISEKI_ENV' => false,
    ]))->mustRun();
});

afterEach(function (): void {
    foreach ($this->busy as $pid) {
        posix_kill($pid, SIGCONT);
    }
    $this->scratch->remove();
});

it('makes what is due and finds a dead run while all that carry out runs are busy', function (): void {
    expect(count($this->busy))->toBeGreaterThan(1);
    $name = 'due-'.bin2hex(random_bytes(3));
    $this->scratch->file('host/files/a', 'one');
    Instance::kaiseki('store-add', "$name-store", $this->scratch->folder('store'));
    Instance::kaiseki('protect', $name, "--source={$this->scratch->path}/host/files", "--store=$name-store", '--level=full');
    expect(Instance::kaiseki('schedule', $name, '--cron=* * * * *=incr', "--store=$name-store")->code)->toBe(0);
    $database = Instance::database();
    $database->exec(
        'UPDATE schedules s JOIN workloads w ON w.id = s.workload_id SET s.considered_at = NOW() - INTERVAL 2 MINUTE WHERE '.
            "w.name = '$name'",
    );
    $worker = gethostname().':99999999:1';
    $database->exec(
        'INSERT INTO runs (workload_id, set_id, set_name, point_at, state, worker, plan, created_at, updated_at) '.
            "SELECT s.workload_id, s.id, s.name, s.captured_at, 'running', '$worker', '{\"target\": \"nowhere\", \"sentence\": \"Put it ".
                "back.\"}', ".
            "NOW(), NOW() FROM sets s JOIN workloads w ON w.id = s.workload_id WHERE w.name = '$name'",
    );
    $run = (int) $database->lastInsertId();
    ($this->clock)();
    $made = fn (): bool => (int) $database
        ->query(
            "SELECT COUNT(*) FROM makings m JOIN workloads w ON w.id = m.workload_id WHERE w.name = '$name' AND m.why = 'by schedule' AND ".
                "m.state = 'done'",
        )
        ->fetchColumn() > 0;
    $found = fn (): bool => $database->query("SELECT state FROM runs WHERE id = $run")->fetchColumn() === 'queued';
    expect(Instance::waitUntil($made))->toBeTrue()->and(Instance::waitUntil($found))->toBeTrue();
    $database->exec("DELETE FROM jobs WHERE queue = 'runs'");
    $database->exec("DELETE FROM trail WHERE run_id = $run");
    $database->exec("DELETE FROM runs WHERE id = $run");
    $database->exec("UPDATE schedules s JOIN workloads w ON w.id = s.workload_id SET s.`on` = 0 WHERE w.name = '$name'");
});
