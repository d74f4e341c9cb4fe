<?php

declare(strict_types=1);

use App\Care\Expiry;
use App\Care\KeepRules;
use App\Kinds\Kinds;
use App\Models\BackupSet;
use App\Models\Check;
use App\Models\Copy;
use App\Models\Role;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\CopyOn;
use App\Sets\Points;
use App\Sets\SetFiles;
use Illuminate\Support\Facades\DB;
use Outside\Jars\JarsProvider;

// One moment of one workload in three files: it is whole when its parts are, wherever each of them is read.

beforeEach(function (): void {
    putenv('KAISEKI_KINDS='.dirname(__DIR__, 2).'/Fixtures/jars/kinds.php');
    Kinds::reload();
    Kinds::all();
    $this->app->register(JarsProvider::class);
    $this->shelf = $this->scratch()->folder('shelf');
    foreach (['one' => 'plum', 'three' => 'quince', 'two' => 'medlar'] as $part => $jam) {
        $this->scratch()->file("shelf/jam.20261002T020000Z+$part.jar", str_repeat($jam, 5000));
    }
    $this->scratch()->file('shelf/old.20261001T020000Z.jar', 'fig');
    expect($this->kaiseki('adopt', $this->shelf, '--as=pantry', '--kind=jars')->code)->toBe(0);
    $this->kaiseki('store-add', 'near', $this->near = $this->scratch()->folder('near'));
    $this->set = BackupSet::query()->where('name', 'jam.20261002T020000Z')->firstOrFail();
    $this->point = function (): array {
        $points = $this->kaiseki('points', 'pantry', '--json')->json()['points'];

        return array_column($points, null, 'set')['jam.20261002T020000Z'];
    };
    $this->open = fn (string ...$more) => $this->kaiseki(
        'restore',
        'pantry',
        "--flat={$this->scratch()->path}/jam",
        '--at=2026-10-03T00:00:00Z',
        '--json',
        ...$more,
    );
    $this->whole = str_repeat('plum', 5000).str_repeat('quince', 5000).str_repeat('medlar', 5000);
    $this->spoil = function (string $file): void {
        $bytes = (string) file_get_contents($file);
        file_put_contents($file, substr_replace($bytes, "\0", 100, 1));
    };
});

afterEach(function (): void {
    putenv('KAISEKI_KINDS');
    Kinds::reload();
});

it('is one point of so many bytes, read back part by part', function (): void {
    expect($this->set->bytes)
        ->toBe(strlen($this->whole))
        ->and(($this->point)()['usable'])
        ->toBe('whole')
        ->and(Copy::query()->where('set_id', $this->set->id)->orderBy('part')->pluck('path')->all())
        ->toBe(['jam.20261002T020000Z+one.jar', 'jam.20261002T020000Z+three.jar', 'jam.20261002T020000Z+two.jar']);
    ($this->spoil)("$this->shelf/jam.20261002T020000Z+three.jar");
    $this->kaiseki('check', 'pantry', "--set={$this->set->name}");
    expect(Check::query()->orderBy('id')->pluck('result')->all())
        ->toEqualCanonicalizing(['right', 'damaged', 'right'])
        ->and(($this->point)())
        ->toMatchArray(['usable' => 'no', 'because' => 'no copy of its part three can be read'])
        ->and(($this->open)()->json()['point'])
        ->toBe('old.20261001T020000Z'); // the newest that is whole
    $this->actingAs($this->person(Role::Operator))
        ->get("/sets/{$this->set->id}")
        ->assertOk()
        ->assertSee('three')
        ->assertSee('It is not what it was at');
});

it('is copied whole, and what is there already is not copied again', function (): void {
    expect($this->kaiseki('copy', 'pantry', $this->set->name, '--to=near')->code)->toBe(0);
    $files = glob("$this->near/pantry/*.jar") ?: [];
    expect($files)->toHaveCount(3);
    unlink($files[1]);
    $near = Store::query()->where('name', 'near')->firstOrFail();
    expect(CopyOn::isThere($this->set->refresh()->load('copies.store'), $near))->toBeFalse();
    $kept = filemtime($files[0]);
    expect($this->kaiseki('copy', 'pantry', $this->set->name, '--to=near')->code)
        ->toBe(0)
        ->and(file_exists($files[1]))
        ->toBeTrue()
        ->and(filemtime($files[0]))
        ->toBe($kept)
        ->and($this->kaiseki('copy', 'pantry', $this->set->name, '--to=near')->code)
        ->toBe(3);
});

it('is whole while each part is somewhere, read from there, mended from there, and held together', function (): void {
    $this->kaiseki('copy', 'pantry', $this->set->name, '--to=near');
    unlink("$this->near/pantry/jam.20261002T020000Z+one.jar");
    unlink("$this->shelf/jam.20261002T020000Z+two.jar");
    $points = new Points(Workload::query()->where('name', 'pantry')->firstOrFail());
    expect(($this->point)()['usable'])
        ->toBe('whole')
        ->and($points->sets[$this->set->id]->isScattered())
        ->toBeTrue();
    expect(($this->open)()->code)->toBe(0)->and(file_get_contents("{$this->scratch()->path}/jam"))->toBe($this->whole);
    // What is a set only together expires from none of them.
    KeepRules::settle($points->workload, null, '', false, everything: true);
    expect(array_column((new Expiry($points->workload))->lines(), 'set'))->not->toContain($this->set->name);
    $missing = Copy::query()->where('set_id', $this->set->id)->where('part', 0)->whereRelation('store', 'name', 'near')->firstOrFail();
    $this->kaiseki('check', 'pantry', '--store=near');
    $mended = $this->kaiseki('mend', 'pantry', $this->set->name, '--store=near');
    expect($mended->code)
        ->toBe(0, $mended->text)
        ->and($missing->refresh()->state)
        ->toBe('checked')
        ->and(file_get_contents("$this->near/pantry/jam.20261002T020000Z+one.jar"))
        ->toBe(str_repeat('plum', 5000));
});

it('comes back without a part that is left out', function (): void {
    unlink("$this->shelf/jam.20261002T020000Z+three.jar");
    $this->kaiseki('copy', 'pantry', 'old.20261001T020000Z', '--to=near');
    $run = App\Models\Run::query()->create([
        'workload_id' => $this->set->workload_id,
        'set_id' => $this->set->id,
        'state' => 'queued',
        'plan' => ['to' => "{$this->scratch()->path}/jam", 'sentence' => 'Open it.', 'without' => [1]],
    ]);
    Kinds::of($run)->carrier()->carryOut($run);
    expect($run->refresh()->state)
        ->toBe('done')
        ->and(file_get_contents("{$this->scratch()->path}/jam"))
        ->toBe(str_repeat('plum', 5000).str_repeat('medlar', 5000));
});

it('expires with all its parts, and leaves nothing of them', function (): void {
    $this->kaiseki('copy', 'pantry', $this->set->name, '--to=near');
    Copy::query()->where('set_id', $this->set->id)->whereRelation('store', 'name', '<>', 'near')->delete();
    $this->kaiseki('copy', 'pantry', 'old.20261001T020000Z', '--to=near');
    $this->scratch()->file('shelf/new.20261003T020000Z.jar', 'rosehip');
    $this->kaiseki('adopt', $this->shelf, '--as=pantry', '--kind=jars');
    $workload = Workload::query()->where('name', 'pantry')->firstOrFail();
    KeepRules::settle($workload, Store::query()->where('name', 'near')->firstOrFail(), '', false, everything: true);
    $expired = (new Expiry($workload))->carryOut(null);
    expect($expired->copies)
        ->toBe(4)
        ->and(glob("$this->near/pantry/jam*"))
        ->toBe([])
        ->and(BackupSet::query()->whereKey($this->set->id)->exists())
        ->toBeFalse()
        ->and(DB::table('set_parts')->where('set_id', $this->set->id)->exists())
        ->toBeFalse()
        ->and(file_exists(SetFiles::pieces($this->set->id, 2)))
        ->toBeFalse();
});

it('is in the night kit and in an export with all its parts', function (): void {
    $this->kaiseki('copy', 'pantry', $this->set->name, '--to=near');
    expect($this->kaiseki('catalog', 'night-kit')->code)
        ->toBe(0)
        ->and(substr_count((string) file_get_contents("$this->near/night-kit/archives.b2sum"), 'jam.20261002T020000Z+'))
        ->toBe(3);
    $this->scratch()->run('sh', '-c', "cd $this->near/night-kit && b2sum --length=256 --quiet --check archives.b2sum");
    $export = $this->scratch()->path.'/export';
    $this->kaiseki('catalog', 'export', $export);
    expect(count(glob("$export/index/{$this->set->id}.*pieces") ?: []))->toBe(3);
    $this->scratch()->run('sh', '-c', "cd $export && b2sum --length=256 --quiet --check catalog.b2sum");
});
