<?php

declare(strict_types=1);

use App\Models\Role;
use App\Models\Run;
use App\Models\Workload;
use App\View\RunBar;
use Tests\Support\Archives;

// How far a run has come, as its page says it.

beforeEach(function (): void {
    $archives = (new Archives($this->scratch()))->put('a', 'x');
    $archives->dump('full');
    $this->told(0, 'adopt', $archives->folder, '--as=tree');
    $this->run = fn (array $as): Run => Run::query()->create($as + [
        'workload_id' => Workload::query()->sole()->id, 'set_id' => App\Models\BackupSet::query()->value('id'), 'state' => 'running',
        'plan' => ['target' => '%2Ftmp', 'paths' => []],
    ])->refresh();
});

it('goes by bytes, else by files, and never beyond its end', function (array $as, float $share): void {
    expect((new RunBar(($this->run)($as)))->share())->toEqualWithDelta($share, 1e-9);
})->with([
    'nothing known' => [[], 0.0],
    'by bytes' => [['bytes_done' => 25, 'bytes_total' => 100, 'files_done' => 9, 'files_total' => 10], 0.25],
    'by files where no bytes are to come' => [['files_done' => 9, 'files_total' => 10], 0.9],
    'more came than was told' => [['bytes_done' => 120, 'bytes_total' => 100], 1.0],
]);

it('says what is left only once something can be told', function (): void {
    $this->freezeTime();
    $run = ($this->run)(['bytes_done' => 1_000_000, 'bytes_total' => 4_000_000, 'started_at' => now()->subSeconds(10)]);
    $words = (new RunBar($run))->words();
    expect($words)->toStartWith('is at work: ')->toContain('of 3.8 MiB')->toContain('/s, about 30 s left')
        ->and((new RunBar($run))->percent())->toBe(25.0);
    foreach ([['bytes_done' => 40_000], ['bytes_done' => 4_000_000], ['started_at' => null]] as $change) {
        expect((new RunBar($run->replicate()->fill(['bytes_total' => 4_000_000] + $change)))->words())->not->toContain('left');
    }
    expect((new RunBar(($this->run)(['state' => 'queued'])))->words())->toStartWith('is waiting for a worker');
});

it('names the cartridges that it waits for, and no store', function (): void {
    $run = ($this->run)(['state' => 'waiting', 'waits_for' => ['boathouse', 'hill-vault/HV1']]);
    expect((new RunBar($run))->cartridges())->toBe(['HV1' => '/stores/hill-vault/cartridges/HV1']);
    $this->actingAs($this->person(Role::Operator))->get("/runs/{$run->id}/progress")->assertOk()
        ->assertSee('waits for boathouse and hill-vault/HV1')->assertSee('Record the arrival of HV1');
});
