<?php

declare(strict_types=1);

use App\Models\Workload;
use Tests\Support\Archives;
use Tests\Support\TarBytes;

it('registers a chain by its names and says what each rests on', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    $full = $archives->dump('full');
    $archives->put('b', 'two');
    $incr = $archives->dump('incr');
    $answer = $this->kaiseki('adopt', $archives->folder, '--as=tree', '--kind=files', '--json');
    expect($answer->code)->toBe(0);
    expect(array_column($answer->json()['sets'], 'base', 'set'))->toBe([$full => null, $incr => $full]);
    expect($answer->json()['refused'])->toBe([]);
    $points = $this->kaiseki('points', 'tree', '--json')->json()['points'];
    expect(array_column($points, 'usable'))
        ->toBe(['whole', 'whole'])
        ->and(array_column($points, 'base_assumed'))
        ->toBe([false, true]);
});

it('takes names of another build, and dump levels', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    rename($archives->file($archives->dump('full')), $archives->folder.'/20261001T020000Z_L0_harbour.tgz');
    $archives->put('b', 'two');
    rename($archives->file($archives->dump('incr')), $archives->folder.'/20261002T020000Z_L5_harbour.tgz');
    $answer = $this->kaiseki('adopt', $archives->folder, '--as=tree', '--pattern={stamp}_L{level}_{name}.tgz', '--json');
    expect(array_column($answer->json()['sets'], 'level'))->toBe(['0', '5']);
    expect($answer->json()['sets'][1]['base'])->toBe('20261001T020000Z_L0_harbour');
});

it('takes what a sheet says instead, recorded bases included', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    $full = $archives->dump('full');
    $archives->put('b', 'two');
    $incr = $archives->dump('incr');
    $sheet = $this->scratch()->file(
        'sheet.json',
        (string) json_encode([
            ['file' => "$incr.tar.gz", 'level' => 'incr', 'captured_at' => '2026-10-09T03:00:00+02:00', 'base' => "$full.tar.gz"],
            ['file' => "$full.tar.gz", 'level' => 'full', 'captured_at' => '2026-10-08T03:00:00+02:00'],
            ['file' => '../outside.tar', 'level' => 'full', 'captured_at' => '2026-10-08T03:00:00Z'],
            ['file' => "$full.tar.gz", 'level' => 'weekly', 'captured_at' => '2026-10-08T03:00:00Z'],
        ]),
    );
    $answer = $this->kaiseki('adopt', $archives->folder, '--as=tree', "--sheet=$sheet", '--json');
    expect(array_column($answer->json()['sets'], 'captured_at'))->toBe(['2026-10-08T01:00:00Z', '2026-10-09T01:00:00Z']);
    expect(array_column($this->kaiseki('points', 'tree', '--json')->json()['points'], 'base_assumed'))->toBe([false, false]);
    expect(array_column($answer->json()['refused'], 'because'))->toBe([
        'there is no such file in the folder',
        '"weekly" is not a level. Levels are full, diff, incr, log, snapshot, and 0 to 9.',
    ]);
});

it('says of each file why it was not taken, and ends with 2 when nothing was', function (): void {
    $folder = $this->scratch()->folder('odd');
    $this->scratch()->file('odd/readme.txt', 'hello');
    $this->scratch()->file('odd/t.full.20261001T020000Z.tar.gz', 'this is no gzip');
    $this->scratch()->file('odd/t.full.20261002T020000Z.tar.gz', '');
    $this->scratch()->file('odd/t.full.20261003T020000Z.tar.gz', (string) gzencode(str_repeat('no tar in here ', 200)));
    $this->scratch()->file('odd/t.full.20261341T020000Z.tar.gz', 'x');
    $answer = $this->kaiseki('adopt', $folder, '--as=odd', '--json');
    expect($answer->code)->toBe(2);
    expect(array_column($answer->json()['refused'], 'because', 'file'))
        ->toHaveCount(5)
        ->and(implode(' ', array_column($answer->json()['refused'], 'because')))
        ->toContain('does not fit the pattern')
        ->toContain('it is empty')
        ->toContain('is not a tar archive')
        ->toContain('moment that exists');
    expect(Workload::query()->count())->toBe(0);
});

it('keeps what was sound in an archive that was cut short', function (): void {
    $archives = new Archives($this->scratch(), '.tar');
    foreach (range(1, 9) as $i) {
        $archives->put("file$i", str_repeat("content $i ", 500));
    }
    $set = $archives->dump('full');
    $archives->cut($set, 24_000);
    $answer = $this->kaiseki('adopt', $archives->folder, '--as=tree', '--json');
    expect($answer->code)
        ->toBe(0)
        ->and($answer->json()['sets'][0]['cataloged'])
        ->toBe('part');
    expect($answer->json()['sets'][0]['remarks'][0])->toContain('cut short');
    $point = $this->kaiseki('points', 'tree', '--json')->json()['points'][0];
    expect($point['usable'])->toBe('part')->and($point['because'])->toContain('of its 9 files are in no archive');
    // All nine are named in the folder's record; those that were cut off are named as left out.
    $restored = $this->kaiseki('restore', 'tree', "--point=$set", '--path=/', "--to={$this->scratch()->path}/out", '--json');
    expect($restored->code)->toBe(4);
    $there = glob("{$this->scratch()->path}/out/tree/file*");
    expect(count($there) + count($restored->json()['left_out']))
        ->toBe(9)
        ->and(count($there))
        ->toBeGreaterThan(2);
    foreach ($there as $file) {
        expect(file_get_contents($file))->toBe(file_get_contents($archives->source.'/'.basename($file)));
    }
    expect(
        $this->kaiseki('restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/', "--to={$this->scratch()->path}/out2", '--json')->code,
    )->toBe(3);
});

it('trusts no content of a gzip member that fails its checksum', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('noise', random_bytes(200_000));
    $set = $archives->dump('full');
    $archives->flip($set, 100_000);
    $answer = $this->kaiseki('adopt', $archives->folder, '--as=tree', '--json');
    expect($answer->json()['sets'][0]['remarks'][0])->toContain('damaged');
    expect(
        $this->kaiseki('restore', 'tree', "--point=$set", '--path=/tree/noise', "--to={$this->scratch()->path}/out", '--json')->code,
    )->not->toBe(0);
    expect(file_exists("{$this->scratch()->path}/out/tree/noise"))->toBeFalse();
});

it('finds that an increment rests on a set that is not here', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one')->put('same', 'never changed');
    $archives->dump('full');
    $archives->put('b', 'two');
    $middle = $archives->dump('incr');
    $archives->put('a', 'three');
    $last = $archives->dump('incr');
    unlink($archives->file($middle));
    $answer = $this->kaiseki('adopt', $archives->folder, '--as=tree', '--json');
    expect($answer->json()['sets'][1]['base'])->toBeNull();
    $point = $this->kaiseki('points', 'tree', '--json')->json()['points'][1];
    expect($point['usable'])->toBe('part')->and($point['because'])->toContain('does not rest on');
    // What it holds itself comes back; what would have to come from an unknown base does not, not even by chance.
    $out = "{$this->scratch()->path}/out";
    $answer = $this->kaiseki('restore', 'tree', "--point=$last", '--path=/', "--to=$out", '--json');
    expect($answer->code)->toBe(4)->and(file_get_contents("$out/tree/a"))->toBe('three');
    expect(file_exists("$out/tree/same"))
        ->toBeFalse()
        ->and(array_column($answer->json()['left_out'], 'path'))
        ->toContain('tree/same', 'tree/b');
});

it('adopts the same folder again without harm, and takes in what is new', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    $archives->dump('full');
    expect($this->kaiseki('adopt', $archives->folder, '--as=tree')->code)->toBe(0);
    $archives->put('b', 'two');
    $archives->dump('incr');
    $answer = $this->kaiseki('adopt', $archives->folder, '--as=tree', '--json');
    expect($answer->json()['sets'])
        ->toHaveCount(1)
        ->and($answer->json()['refused'][0]['because'])
        ->toContain('registered already');
});

it('names the wrong word in a wrong call', function (array $arguments, string $says): void {
    $answer = $this->kaiseki(...$arguments, ...['--json']);
    expect($answer->code)
        ->toBe(2)
        ->and($answer->json()['error'] ?? '')
        ->toContain($says);
})->with([
    [['adopt', '/nowhere', '--as=x'], 'There is no folder'],
    [['adopt', '/tmp', '--as=x', '--kind=castle'], '"castle" is not a kind'],
    [['adopt', '/tmp'], '--as=NAME'],
    [['adopt', '/tmp', '--as=../x'], 'letters, digits'],
    [['adopt', '/tmp', '--as=x', '--colour=red'], 'colour'],
    [['points', 'nothing'], 'There is no workload named "nothing"'],
    [['fly'], 'fly'],
]);

it('leaves out members whose names lead out, and keeps the rest', function (): void {
    $folder = $this->scratch()->folder('hostile');
    TarBytes::new()
        ->member('../escaped', 'x')
        ->member('good', 'kept')
        ->member('a/../../b', 'x')
        ->write("$folder/h.full.20261001T020000Z.tar");
    $answer = $this->kaiseki('adopt', $folder, '--as=h', '--json');
    expect($answer->code)->toBe(0)->and(implode(' ', $answer->json()['sets'][0]['remarks']))->toContain('it leads out of its folder');
    expect(array_column($this->kaiseki('browse', 'h', '--at=2026-11-01T00:00:00Z', '--json')->json()['entries'], 'name'))->toBe(['good']);
});
