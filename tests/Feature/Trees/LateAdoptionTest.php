<?php

declare(strict_types=1);

use App\Models\BackupSet;
use App\Models\Workload;
use App\Trees\Catalog\CatalogReader;
use Illuminate\Support\Facades\DB;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Archives;

/**
 * All that the catalog says of a workload, without the numbers of its rows: spans by the names of sets, totals, bases.
 *
 * @return array<mixed>
 */
function saidOf(string $workload): array
{
    $model = Workload::query()->where('name', $workload)->sole();
    $reader = new CatalogReader;
    $sets = BackupSet::query()->where('workload_id', $model->id)->orderBy('instant')->get();
    $said = [];
    foreach ($sets as $set) {
        $tree = iterator_to_array($reader->tree($set)->entries());
        ksort($tree);
        $totals = [];
        foreach (array_keys($tree) as $path) {
            $totals[$path] = $tree[$path][0] === 'd' ? $reader->total($set, (string) $path) : null;
        }
        $said[$set->name] = [
            $set->base?->name,
            $set->cataloged,
            $set->base_unknown_because,
            $set->tree_files,
            $set->tree_bytes,
            array_map(bin2hex(...), $tree),
            $totals,
        ];
    }
    $rows = DB::select(
        'SELECT v.path_id, v.first, v.until, v.kind, v.size, v.mtime, HEX(v.digest) d, HEX(v.attributes) a FROM versions v JOIN '.
            'histories h ON h.id = v.history_id WHERE h.workload_id = ?',
        [$model->id],
    );
    $paths = $reader->folderPaths(array_map(fn (object $row): int => (int) $row->path_id, $rows));
    $spans = array_map(fn (object $row): string => implode(' ', ['path_id' => $paths[(int) $row->path_id]] + (array) $row), $rows);
    sort($spans);

    return [$said, $spans];
}

it('says the same of a chain in whatever order its sets are adopted', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $archives = new Archives($this->scratch(), $seed % 2 === 0 ? '.tar' : '.tar.gz');
    $names = [];
    $archives->put('always', 'here');
    for ($day = 0; $day < 7; $day++) {
        foreach (range(1, 6) as $_) {
            $path = 'd'.$random->getInt(1, 3).'/f'.$random->getInt(1, 4);
            $random->getInt(0, 2) === 0 ? $archives->delete($path) : $archives->put($path, str_repeat('x', $random->getInt(0, 50)));
        }
        $names[] = $archives->dump($day === 0 ? 'full' : ['full', 'diff', 'incr', 'incr'][$random->getInt(0, 3)]);
    }
    $this->kaiseki('adopt', $archives->folder, '--as=inorder');
    $later = $this->scratch()->folder('later');
    foreach ($random->shuffleArray($names) as $name) {
        copy($archives->file($name), $later.'/'.basename($archives->file($name)));
        touch($later.'/'.basename($archives->file($name)), (int) filemtime($archives->file($name)));
        expect($this->kaiseki('adopt', $later, '--as=late', '--json')->json()['sets'])->toHaveCount(1, $name);
    }
    $expected = saidOf('inorder');
    $got = saidOf('late');
    expect($got[0])->toBe($expected[0]);
    expect($got[1])->toBe($expected[1]);
})->with(range(71, 78));

it('rests no set on one of its own instant, whichever came first', function (array $order): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    $at = [
        'first' => '2026-10-01T02:00:00Z',
        'twin' => '2026-10-02T02:00:00Z',
        'whole' => '2026-10-02T02:00:00Z',
        'z-last' => '2026-10-03T02:00:00Z',
    ];
    foreach (['first' => 'full', 'twin' => 'incr', 'whole' => 'full', 'z-last' => 'incr'] as $name => $level) {
        $archives->put($name, $name);
        rename($archives->file($archives->dump($level)), "$archives->folder/$name.tar.gz");
        $files[$name] = ['file' => "$name.tar.gz", 'level' => $level, 'captured_at' => $at[$name]];
    }
    foreach ($order as $names) {
        $sheet = $this->scratch()->file('sheet.json', (string) json_encode(array_map(fn (string $name): array => $files[$name], $names)));
        expect($this->kaiseki('adopt', $archives->folder, '--as=tree', "--sheet=$sheet")->code)->toBe(0);
    }
    // Of the two, the full is the last by name: what comes after them rests on that.
    $bases = ['first' => null, 'twin' => 'first', 'whole' => null, 'z-last' => 'whole'];
    $points = new App\Sets\Points(Workload::query()->firstOrFail());
    foreach ($bases as $name => $base) {
        expect(BackupSet::query()->where('name', $name)->firstOrFail()->base?->name)
            ->toBe($base)
            ->and($points->graph->baseOf($name))
            ->toBe($base);
    }
    expect($points->usable($points->set('z-last')))->toBe('whole');
})->with([
    'the full first' => [[['first', 'whole', 'twin', 'z-last']]],
    'the increment first' => [[['first', 'twin', 'z-last'], ['whole']]],
    'the full of both last' => [[['whole', 'twin', 'z-last'], ['first']]],
]);

it('begins a new history where a sheet or a name says so, and rests nothing of it on the old one', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    $full = $archives->dump('full');
    $archives->put('b', 'two');
    $incr = $archives->dump('incr');
    $sheet = $this->scratch()->file(
        'sheet.json',
        (string) json_encode([
            ['file' => basename($archives->file($full)), 'level' => 'full', 'captured_at' => '2026-10-01T02:00:00Z', 'history' => 'old'],
            [
                'file' => basename($archives->file($incr)),
                'level' => 'incr',
                'captured_at' => '2026-10-02T02:00:00Z',
                'history' => 'rebuilt',
            ],
        ]),
    );
    $sets = $this->kaiseki('adopt', $archives->folder, '--as=tree', "--sheet=$sheet", '--json')->json()['sets'];
    expect($sets[1]['base'])->toBeNull()->and($sets[1]['cataloged'])->toBe('part');
    $named = $this->scratch()->folder('named');
    copy($archives->file($full), "$named/tree.old.full.20261001T020000Z.tar.gz");
    copy($archives->file($incr), "$named/tree.new.incr.20261002T020000Z.tar.gz");
    $sets = $this->kaiseki('adopt', $named, '--as=named', '--pattern={name}.{history}.{level}.{stamp}.tar.gz', '--json')->json()['sets'];
    expect($sets[1]['base'])
        ->toBeNull()
        ->and(App\Models\History::query()->orderBy('id')->pluck('name')->all())
        ->toBe(['old', 'rebuilt', 'old', 'new']);
});

it('protects a rebuilt source in a new history that begins with a full', function (): void {
    $source = $this->scratch()->folder('source');
    file_put_contents("$source/a", 'one');
    $this->kaiseki('protect', 'own', "--source=$source", '--level=full');
    sleep(1);
    $rebuilt = $this->kaiseki('protect', 'own', '--level=incr', '--new-history', '--json')->json();
    expect($rebuilt['level'])->toBe('full')->and($rebuilt['remarks'][0])->toContain('new history');
    sleep(1);
    $next = $this->kaiseki('protect', 'own', '--level=incr', '--json')->json();
    expect($next['base'])->toBe($rebuilt['set']);
});

it('takes a snapshot as a point of its own that goes with its source', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    $full = $archives->dump('full');
    rename($archives->file($full), dirname($archives->file($full)).'/tree.snapshot.20261001T120000Z.tar.gz');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $points = fn (): array => $this->kaiseki('points', 'tree', '--json')->json()['points'];
    expect($points()[0])->toMatchArray(['level' => 'snapshot', 'usable' => 'whole']);
    Workload::query()->update(['source' => $this->scratch()->path.'/no-such-source']);
    expect($points()[0]['usable'])->toBe('no');
});
