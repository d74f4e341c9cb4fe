<?php

declare(strict_types=1);

use App\Models\Run;
use App\Models\Workload;
use App\Runs\RunProgress;
use Kaiseki\Core\Files\UnableToRestore;

beforeEach(function (): void {
    $workload = Workload::query()->create(['name' => 'kelp', 'kind' => 'files']);
    $this->run = Run::query()->create(['workload_id' => $workload->id, 'state' => 'running', 'plan' => []]);
});

it('waits where a run is faster than it may be, and no longer', function (): void {
    $progress = new RunProgress($this->run, null, 2);
    $began = microtime(true);
    $progress->advanced(0, 400_000);
    expect(microtime(true) - $began)->toBeGreaterThanOrEqual(0.19);
    $progress->advanced(1, 1_000_000);
    expect(microtime(true) - $began)->toBeGreaterThanOrEqual(0.69);
    $progress->tell();
    expect($this->run->refresh()->bytes_done)->toBe(1_400_000);
});

it('hears while it waits that the run is to stop', function (): void {
    $progress = new RunProgress($this->run, null, 1);
    $this->run->update(['stop_asked' => true]);
    expect(fn () => $progress->advanced(0, 100_000_000_000))->toThrow(UnableToRestore::class);
});
