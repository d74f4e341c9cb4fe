<?php

declare(strict_types=1);

use App\Kinds\Kinds;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Protect\PartRecord;
use Kaiseki\Core\Protect\SetRecord;
use Outside\Jars\Jars;
use Outside\Jars\JarsProvider;

// A kind in one folder, not in the project: nothing of ours knows its name.

beforeEach(function (): void {
    putenv('KAISEKI_KINDS='.__DIR__.'/../../Fixtures/jars/kinds.php');
    Kinds::reload();
    Kinds::all();
    $this->app->register(JarsProvider::class);
    $this->shelf = $this->scratch()->folder('shelf');
    $this->scratch()->file('shelf/plum.20261001T020000Z.jar', 'plum');
    $this->scratch()->file('shelf/quince.20261002T020000Z.jar', 'quince');
    $this->adopted = $this->kaiseki('adopt', $this->shelf, '--as=pantry', '--kind=jars', '--json');
    $this->operator = $this->person(Role::Operator);
});

afterEach(function (): void {
    Jars::$isBroken = false;
    putenv('KAISEKI_KINDS');
    Kinds::reload();
});

function jarRequest(object $test): RecoveryRequest
{
    return RecoveryRequest::query()
        ->create([
            'workload_id' => Workload::query()->where('name', 'pantry')->value('id'),
            'requester_id' => $test->operator->id,
            'summary' => 'No jam',
            'reason' => 'Breakfast',
            'wanted_at' => '2026-10-01 12:00:00',
            'due_at' => now()->addHour(),
        ])
        ->refresh();
}

it('adopts, lists points, restores, proves and is put back from the terminal', function (): void {
    expect($this->adopted->code)
        ->toBe(0, $this->adopted->text)
        ->and($this->adopted->json()['sets'])
        ->toHaveCount(2);
    $points = $this->kaiseki('points', 'pantry', '--at=2026-10-01T12:00:00Z', '--json')->json();
    expect($points['chosen'])
        ->toBe('plum.20261001T020000Z')
        ->and(array_column($points['points'], 'usable'))
        ->toBe(['whole', 'whole']);
    $to = "{$this->scratch()->path}/breakfast";
    $restored = $this->kaiseki('restore', 'pantry', "--flat=$to", '--at=2026-10-03T00:00:00Z', '--json');
    expect($restored->code)->toBe(0, $restored->text)->and(file_get_contents($to))->toBe('quince');
    $run = Run::query()->sole();
    $proof = "{$this->scratch()->path}/proof.json";
    expect($this->kaiseki('proof', (string) $run->id, "--out=$proof")->code)
        ->toBe(0)
        ->and($this->kaiseki('check-proof', $proof)->code)
        ->toBe(0)
        ->and($this->kaiseki('put-back', (string) $run->id)->text)
        ->toContain('closed again')
        ->and(file_exists($to))
        ->toBeFalse();
});

it('is ordered, run, proven and put back from the page', function (): void {
    $request = jarRequest($this);
    $to = "{$this->scratch()->path}/breakfast";
    $this->actingAs($this->operator)
        ->get("/requests/{$request->id}")
        ->assertOk()
        ->assertSee('The shelf.')
        ->assertSee('Say where the jar is to stand.');
    $this->post("/requests/{$request->id}/lid", ['to' => $to])->assertRedirect();
    $page = $this->get("/requests/{$request->id}?show=run")
        ->assertOk()
        ->assertSee('Mind the lid.')
        ->assertSee('Yes, run it now');
    preg_match('/name="order" value="([0-9a-f]+)"/', (string) $page->getContent(), $order);
    config(['queue.default' => 'sync']);
    $this->post("/requests/{$request->id}/run", ['order' => $order[1]])->assertSessionHasNoErrors();
    $run = Run::query()->sole();
    expect(file_get_contents($to))->toBe('plum');
    $this->get("/requests/{$request->id}?show=proof")
        ->assertOk()
        ->assertSee('brought back one jar')
        ->assertSee('the same jam');
    $this->get("/runs/{$run->id}/page")
        ->assertOk()
        ->assertSee('Taste it.')
        ->assertSee("Proof of run {$run->id}");
    $this->post("/runs/{$run->id}/put-back")->assertRedirect();
    expect(file_exists($to))->toBeFalse();
    $addresses = [
        '/',
        '/estate',
        "/workloads/{$run->workload_id}", "/workloads/{$run->workload_id}/care", "/sets/{$run->set_id}", '/proofs'];
    foreach ($addresses as $address) {
        $this->get($address)->assertOk();
    }
});

it('has options that mean something else for another kind, and says which it takes', function (): void {
    $wrong = $this->kaiseki('restore', 'pantry', '--path=/', '--json');
    expect($wrong->code)
        ->toBe(2)
        ->and($wrong->json()['error'])
        ->toContain('"--path" option does not exist')
        ->toContain('It takes: ')
        ->toContain('--flat')
        ->and($this->kaiseki('browse', 'pantry', '--at=2026-10-03T00:00:00Z')->text)
        ->toContain('pantry is a shelf of jars, and "browse" is about files');
});

it('lets the desk go on when it fails', function (): void {
    Jars::$isBroken = true;
    $workload = Workload::query()->where('name', 'pantry')->firstOrFail();
    $this->look();
    $this->actingAs($this->operator)->get('/estate')->assertOk()->assertSee('pantry')->assertSee('The jar opener is gone.');
    $this->get('/')->assertOk();
    $this->get("/workloads/{$workload->id}")
        ->assertStatus(500)
        ->assertSee('The jar opener is gone.');
    $request = jarRequest($this);
    $this->get("/requests/{$request->id}")
        ->assertStatus(500)
        ->assertSee('The jar opener is gone.');
    array_map(fn (string $part) => (new $part)->handle(), App\Jobs\NightWork::PARTS);
    expect(App\Models\TrailEntry::query()->where('what', 'like', '%pantry%jar opener is gone%')->exists())->toBeTrue();
});

it('is listed and kept while it is not installed, and everything else says what is missing', function (): void {
    putenv('KAISEKI_KINDS');
    Kinds::reload();
    $workload = Workload::query()->where('name', 'pantry')->firstOrFail();
    $request = jarRequest($this);
    $missing = 'The kind "jars" is not installed here';
    $this->actingAs($this->operator)->get('/estate')->assertOk()->assertSee('pantry');
    $this->get("/workloads/{$workload->id}")
        ->assertOk()
        ->assertSee('not installed here');
    $this->get("/workloads/{$workload->id}/care")->assertOk();
    $this->get("/requests/{$request->id}")
        ->assertStatus(409)
        ->assertSee($missing);
    $check = $this->kaiseki('check', 'pantry', '--json');
    expect($check->code)
        ->toBe(0, $check->text)
        ->and($this->kaiseki('restore', 'pantry')->text)
        ->toContain($missing)
        ->and($this->kaiseki('restore', 'pantry')->code)
        ->toBe(3)
        ->and($this->kaiseki('hand-sheet', 'pantry')->code)
        ->toBe(3);
});

it('drops what was chosen when a request is moved to it, and says so', function (): void {
    $this->scratch()->file('tree/a', 'a');
    $this->scratch()->run(
        'tar',
        '-czf',
        $this->scratch()->folder('archives').'/tree.full.20261001T020000Z.tar.gz',
        '-C',
        $this->scratch()->path,
        'tree',
    );
    $this->kaiseki('adopt', "{$this->scratch()->path}/archives", '--as=crew');
    $request = jarRequest($this);
    $request->say('jars', 1, ['to' => '/x'])->save();
    $crew = Workload::query()->where('name', 'crew')->value('id');
    $this->actingAs($this->operator)
        ->post("/requests/{$request->id}/workload", ['workload' => $crew])
        ->assertSessionHas('told', 'crew is files: what was chosen for a shelf of jars is dropped.');
    expect($request->refresh()->saidOf('jars'))->toBe([]);
    $this->post("/requests/{$request->id}/lid", ['to' => '/x'])->assertNotFound();
});

it('is rebuilt by what its records say, and by nobody else where it is not installed', function (): void {
    $store = $this->scratch()->folder('ours');
    $this->kaiseki('store-add', 'ours', $store);
    $record = ['format' => SetRecord::FORMAT, 'kind' => 'jars', 'name' => 'fig.20261001T020000Z', 'parts' => []];
    foreach (['a' => 'fig', 'b' => 'leaf'] as $part => $jam) {
        $file = $this->scratch()->file("ours/cellar/fig.20261001T020000Z+$part.jar", $jam);
        $record['parts'][] = (new PartRecord($part, basename($file), strlen($jam), bin2hex(sodium_crypto_generichash($jam))))->toArray();
    }
    $this->scratch()->file('ours/cellar/fig.20261001T020000Z.set.json', (string) json_encode($record));
    $record['parts'][1]['blake2b_256'] = str_repeat('0', 64);
    $this->scratch()->file(
        'ours/cellar/wrong.20261001T030000Z.set.json',
        (string) json_encode(['name' => 'wrong.20261001T030000Z'] + $record),
    );
    $this->scratch()->run('tar', '-czf', "$store/cellar/fig.full.20261001T020000Z.tar.gz", '-C', $this->shelf, '.');
    expect($this->kaiseki('catalog', 'rebuild', '--store=ours', '--json')->json())
        ->toBe([
            'sets' => [['workload' => 'cellar', 'set' => 'fig.20261001T020000Z', 'from' => 'archive']],
            'problems' => [['file' => 'wrong.20261001T030000Z.set.json', 'because' => 'The part b is not what it was.']],
        ])
        ->and(DB::table('set_parts')->orderBy('number')->pluck('bytes', 'name')->all())
        ->toBe(['a' => 3, 'b' => 4]);
    Workload::query()->where('name', 'cellar')->firstOrFail()->sets()->firstOrFail()->copies()->delete();
    DB::table('sets')->delete();
    Workload::query()->where('name', 'cellar')->delete();
    putenv('KAISEKI_KINDS');
    Kinds::reload();
    $told = $this->kaiseki('catalog', 'rebuild', '--store=ours', '--json')->json();
    expect($told['sets'])
        ->toBe([])
        ->and($told['problems'][0]['because'])
        ->toContain('The kind "jars" is not installed here')
        ->and(Workload::query()->where('name', 'cellar')->exists())
        ->toBeFalse();
});

it('brings workloads of another kind, which go on being of that', function (): void {
    foreach (['orchard', 'meadow'] as $name) {
        $this->scratch()->file("$name/plum", 'a plum');
        $this->told(0, 'protect', $name, '--source='.$this->scratch()->at($name), '--level=full');
    }
    $pot = $this->scratch()->at('pot');
    $at = '--at='.now()->addMinute()->utc()->format('Y-m-d\TH:i:s\Z');
    expect($this->told(0, 'restore', 'orchard', $at, "--jam=$pot")['jam'])->toBe('orchard')
        ->and(file_get_contents($pot))->toBe('jam of orchard')
        ->and($this->told(2, 'restore', 'meadow', $at, "--jam=$pot")['error'])->toContain('--jam');
    $to = $this->scratch()->folder('back');
    $this->told(0, 'restore', 'orchard', $at, '--path=/plum', "--to=$to");
    expect(file_get_contents("$to/plum"))->toBe('a plum');
    $this->told(0, 'catalog', 'night-kit');
    $store = Store::query()->where('name', 'boathouse')->value('root');
    expect(file_get_contents("$store/night-kit/jam.txt"))->toContain('orchard/orchard.full.')
        ->and(file_get_contents("$store/night-kit/READ-ME.txt"))->toContain('how jam is made of orchard.full.')
        ->not->toContain('made of meadow');

    $this->actingAs($this->operator);
    $request = jarRequest($this);
    foreach (['orchard' => true, 'meadow' => false] as $name => $isOffered) {
        $workload = Workload::query()->where('name', $name)->sole();
        $request->update(['workload_id' => $workload->id]);
        $page = (string) $this->get("/requests/{$request->id}?show=where")->assertOk()->getContent();
        $set = (string) $this->get('/sets/'.$workload->sets()->value('id'))->assertOk()->getContent();
        expect(str_contains($page, 'Jam can be made of request'))->toBe($isOffered)
            ->and(str_contains($set, "of all fruits of $name"))->toBe($isOffered);
    }
    $run = Run::query()->create([
        'workload_id' => Workload::query()->where('name', 'orchard')->value('id'), 'kind' => 'jars', 'state' => 'queued', 'plan' => [],
        'set_id' => Workload::query()->where('name', 'orchard')->sole()->sets()->value('id'), 'is_whole' => true,
    ]);
    expect(Kinds::of($run)->name())->toBe('jars')->and(Kinds::of($run->workload)->name())->toBe('files');
});
