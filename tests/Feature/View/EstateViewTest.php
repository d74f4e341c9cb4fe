<?php

declare(strict_types=1);

use App\Care\KeptStanding;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Workload;
use App\View\EstateLine;
use App\View\EstateView;
use App\View\SetView;
use App\View\StoresView;
use App\View\WorkloadView;
use Illuminate\Support\Facades\DB;
use Tests\Support\Archives;

// What the pages of the estate, of stores, of a workload and of a set tell, reckoned again by hand.

beforeEach(function (): void {
    foreach (['calm', 'late'] as $name) {
        $archives = (new Archives($this->scratch()))->put("$name-a", str_repeat($name, 100));
        $archives->dump('full');
        $archives->put("$name-b", 'more');
        $archives->dump('incr');
        $folder = $this->scratch()->folder("of-$name");
        $this->scratch()->run('cp', '-a', "{$archives->folder}/.", $folder);
        $this->told(0, 'adopt', $folder, "--as=$name");
        $this->scratch()->run('rm', '-rf', $archives->folder, $archives->source);
    }
    Workload::query()->where('name', 'late')->update(['rpo_s' => 3600]); // its newest point is weeks old
    $this->operator = $this->person(Role::Operator);
});

it('lists first what most needs somebody, and before it what could not be told', function (): void {
    Workload::query()->get()->each(KeptStanding::reckon(...));
    Workload::query()->create(['name' => 'unseen', 'kind' => 'files', 'group' => 'piers']);
    $lines = (new EstateView($this->operator, request()))->lines->items();
    expect(array_map(fn (EstateLine $line): string => $line->workload->name, $lines))->toBe(['unseen', 'late', 'calm'])
        ->and($lines[1]->concerns[0]->weight)->toBeGreaterThan($lines[2]->concerns[0]->weight);
    $limited = new EstateView($this->person(Role::Operator, ['piers']), request());
    expect(array_map(fn (EstateLine $line): string => $line->workload->name, $limited->lines->items()))->toBe(['unseen']);
});

it('shows a page at a time of those that fit, and says how many there are', function (): void {
    for ($i = 0; $i < 60; $i++) {
        Workload::query()->create(['name' => sprintf('berth-%02d', $i), 'kind' => 'files', 'group' => 'piers', 'site' => 'pier-nine']);
    }
    Workload::query()->get()->each(KeptStanding::reckon(...));
    DB::table('standings')->where('workload_id', Workload::query()->where('name', 'calm')->value('id'))->update([
        'said->has_source' => false, 'said->outside' => true, 'said->checked_at' => now()->format('Y-m-d H:i:s'),
    ]);
    $names = fn (string $query): array => array_map(
        fn (EstateLine $line): string => $line->workload->name,
        (new EstateView($this->operator, Illuminate\Http\Request::create("/estate?$query")))->lines->items(),
    );
    expect($names(''))->toHaveCount(50)->and($names('q=ca'))->toBe(['calm'])->and($names('q=%25'))->toBe([])
        ->and($names('q=late&concerns=1'))->toBe(['late'])->and($names('q=calm&concerns=1'))->toBe([])
        ->and($names('q=pier-nine'))->toHaveCount(50)->and($names('kind=databases'))->toBe([])->and($names('kind=%3C'))->toHaveCount(50);
    $second = $this->actingAs($this->operator)->get('/estate?q=berth&page=2')->assertOk();
    expect(substr_count($second->getContent(), 'data-row'))->toBe(10);
    $second->assertSee('berth-59')->assertDontSee('berth-49')->assertSee('q=berth&amp;page=1', false);
    $this->get('/estate?q=nothing-like-it')->assertOk()->assertSee('No workload fits that.')->assertDontSee('Nothing is protected');
});

it('counts open requests and days on which promises were kept', function (): void {
    $late = Workload::query()->where('name', 'late')->sole();
    foreach (['open', 'running', 'closed'] as $state) {
        RecoveryRequest::query()->create([
            'workload_id' => $late->id, 'requester_id' => $this->operator->id, 'summary' => 's', 'reason' => 'r', 'state' => $state,
            'wanted_at' => now(), 'due_at' => now(),
        ]);
    }
    foreach ([20 => true, 3 => true, 2 => false, 1 => true] as $ago => $met) { // one of them before the last fortnight
        DB::table('objective_days')->insert([
            'workload_id' => $late->id, 'day' => now()->subDays($ago)->format('Y-m-d'), 'met' => $met,
        ]);
    }
    $line = array_values(array_filter(
        (new EstateView($this->operator, request()))->lines->items(),
        fn (EstateLine $line): bool => $line->workload->name === 'late',
    ))[0];
    expect($line->open)->toBe(2)->and($line->days)->toBe([true, false, true])
        ->and($line->daysInWords())->toBe('Of the last 3 days on record the promises were kept on 2')
        ->and($line->proven)->toBeNull();
});

it('tells what of a workload lies where, and how many histories it has', function (): void {
    $this->told(0, 'store-add', 'near', $this->scratch()->folder('near'));
    $calm = Workload::query()->where('name', 'calm')->sole();
    $set = $calm->sets()->orderBy('instant')->firstOrFail();
    $this->told(0, 'copy', 'calm', $set->name, '--to=near');
    $view = new WorkloadView($calm, $this->operator, request());
    $by = [];
    foreach ($view->stores() as $there) {
        $by[$there->store] = [$there->copies, $there->readable, $there->bytes];
    }
    $adopted = array_values(array_diff(array_keys($by), ['near']))[0];
    $bytes = fn (string $store): int => (int) DB::table('copies')->join('stores', 'stores.id', '=', 'store_id')
        ->where(['stores.name' => $store, 'copies.workload_id' => $calm->id])->sum('copies.bytes');
    expect($by['near'])->toBe([1, 1, $bytes('near')])->and($by[$adopted])->toBe([2, 2, $bytes($adopted)])
        ->and(array_map(fn ($history): int => $history->sets, $view->histories()))->toBe([2]);
});

it('says of each copy what was found when it was read, and offers to mend only what is wrong', function (): void {
    $calm = Workload::query()->where('name', 'calm')->sole();
    $set = $calm->sets()->orderBy('instant')->firstOrFail();
    $line = fn (): App\View\CopyLine => (new SetView($set->refresh(), $this->operator))->copies()[0];
    expect([$line()->isFine(), $line()->found(), $line()->canMend])->toBe([true, '', false]);
    $this->kaiseki('check', 'calm', "--set={$set->name}");
    expect([$line()->isFine(), $line()->found(), $line()->canMend])->toBe([true, 'every byte as it was written', false]);
    $file = $this->scratch()->path."/of-calm/{$set->name}.tar.gz";
    file_put_contents($file, strrev((string) file_get_contents($file)));
    $this->kaiseki('check', 'calm', "--set={$set->name}");
    expect([$line()->isFine(), $line()->canMend])->toBe([false, true])->and($line()->found())->not->toBe('every byte as it was written');

    Workload::query()->get()->each(KeptStanding::reckon(...));
    $trouble = (new StoresView($this->operator))->trouble();
    expect($trouble)->toHaveCount(1)->and([$trouble[0]->set, $trouble[0]->state->value])->toBe([$set->name, 'damaged']);
});
