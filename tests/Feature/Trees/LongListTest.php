<?php

declare(strict_types=1);

use App\Models\Run;
use App\Runs\RunFiles;
use App\Trees\Run\LongList;
use Tests\Support\Desk;

// What may have a line for each of a million files does not become a column of the run.

beforeEach(function (): void {
    $this->desk = new Desk($this, fn ($a) => $a->put('roster', 'good'), fn ($a) => $a->put('later', 'x'));
    $this->run = Run::query()->create([
        'workload_id' => $this->desk->request->workload_id, 'set_id' => $this->desk->set(0)->id, 'state' => 'done', 'plan' => [],
    ]);
    $this->rows = fn (int $count): Generator => (function () use ($count): Generator {
        for ($i = 0; $i < $count; $i++) {
            yield ['path' => "file $i", 'because' => 'x', 'loss' => $i % 1000 === 999];
        }
    })();
});

it('keeps short lists with the run, and of long ones the first, losses before others', function (): void {
    $short = LongList::keep($this->run, LongList::LEFT_OUT, ($this->rows)(1000));
    expect($short['left_out'])->toHaveCount(1000)->and(RunFiles::longList($this->run, LongList::LEFT_OUT))->not->toBeFile();
    $long = LongList::keep($this->run, LongList::LEFT_OUT, ($this->rows)(2500));
    $this->run->update(['outcome' => $long]);
    expect($long['left_out'])
        ->toHaveCount(1000)
        ->and(array_column(array_slice($long['left_out'], 0, 3), 'path'))
        ->toBe(['file 999', 'file 1999', 'file 0'])
        ->and(LongList::count($long, LongList::LEFT_OUT))
        ->toBe(2500);
    expect(array_column(iterator_to_array(LongList::all($this->run, LongList::LEFT_OUT)), 'path'))
        ->toBe(array_map(fn (int $i): string => "file $i", range(0, 2499)));
    $again = LongList::keep($this->run, LongList::LEFT_OUT, ($this->rows)(1));
    $this->run->update(['outcome' => $again]);
    expect(iterator_to_array(LongList::all($this->run, LongList::LEFT_OUT)))->toHaveCount(1);
});

it('holds no more of a list of three hundred thousand than of a short one', function (): void {
    LongList::keep($this->run, LongList::DIFFERENCES, ($this->rows)(2000));
    $before = memory_get_usage();
    memory_reset_peak_usage();
    LongList::keep($this->run, LongList::DIFFERENCES, ($this->rows)(300_000));
    foreach (LongList::all($this->run, LongList::DIFFERENCES) as $row) {
        $last = $row;
    }
    expect($last['path'])->toBe('file 299999')->and(memory_get_peak_usage() - $before)->toBeLessThan(8 << 20);
});

it('reads what a run of long ago kept whole', function (): void {
    $this->run->update(['outcome' => ['left_out' => iterator_to_array(($this->rows)(3))]]);
    expect(iterator_to_array(LongList::all($this->run, LongList::LEFT_OUT)))->toHaveCount(3);
    expect(LongList::count($this->run->outcome, LongList::LEFT_OUT))->toBe(3)->and(LongList::count([], LongList::DIFFERENCES))->toBe(0);
});

it('gives all of a long list as a file, to those who see the run', function (): void {
    $out = $this->scratch()->path.'/out';
    $id = $this->kaiseki('restore', 'crew', '--at=2026-10-05T00:00:00Z', '--path=tree/roster', "--to=$out", '--json')->json()['run'];
    $run = Run::query()->findOrFail($id);
    $run->update(['outcome' => LongList::keep($run, LongList::LEFT_OUT, ($this->rows)(1200)) + $run->outcome]);
    $this->actingAs($this->desk->operator)
        ->get("/runs/$id")
        ->assertOk()
        ->assertSee('1,200 things were not brought back')
        ->assertSee("/runs/$id/left_out", false);
    expect(substr_count($this->get("/runs/$id/left_out")->assertOk()->streamedContent(), "\n"))->toBe(1200);
    $this->get("/runs/$id/differences")->assertNotFound();
    $this->actingAs($this->person(App\Models\Role::Operator, ['engine room']))->get("/runs/$id/left_out")->assertForbidden();
});
