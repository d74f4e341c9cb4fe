<?php

declare(strict_types=1);

use Tests\Support\Archives;

/* What the command line says to people, and the commands that need no request. */

it('lists points, and says why newer ones were passed over', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    $full = $archives->dump('full');
    $archives->put('a', 'two');
    $incr = $archives->dump('incr');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    unlink($archives->file($incr));
    $text = $this->kaiseki('points', 'tree', '--at=2026-11-01T00:00:00Z')->text;
    expect($text)
        ->toContain("> $full")
        ->toContain("Passed over: $incr: 1 of its 1 files is in no archive that can be read.")
        ->toContain('no');
    expect($this->kaiseki('points', 'tree', '--at=2020-01-01T00:00:00Z')->code)->toBe(3);
    $plan = $this->kaiseki('plan', 'tree', '--at=2026-11-01T00:00:00Z')->text;
    expect($plan)
        ->toContain("1. $full from adopted-tree, 3 B")
        ->toContain('lost: 30 days 22 h before the wanted moment');
});

it('shows names with control characters as escapes, never raw', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put("e\e[31mvil\nname", 'x');
    $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    foreach (['browse', 'find'] as $command) {
        $text =
            $command === 'browse'
                ? $this->kaiseki('browse', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/tree')->text
                : $this->kaiseki('find', 'tree', 'vil')->text;
        expect($text)->toContain('e\x1b[31mvil\nname')->not->toContain("\e");
    }
    $restored = $this->kaiseki(
        'restore',
        'tree',
        '--at=2026-11-01T00:00:00Z',
        "--path=/tree/e\e[31mvil\nname",
        "--to={$this->scratch()->path}/o\e[31mut",
    );
    expect($restored->code)->toBe(0)->and($restored->text)->not->toContain("\e")->toContain('1 file');
});

it('looks into a point that cannot be given back whole', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    $full = $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    unlink($archives->file($full));
    expect($this->kaiseki('browse', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/tree', '--json')->json()['entries'][0]['name'])->toBe(
        'a',
    );
    expect($this->kaiseki('browse', 'tree', '--at=2020-01-01T00:00:00Z', '--json')->code)->toBe(3);
});

it('protects a folder by levels, and says what it rests on', function (): void {
    $source = $this->scratch()->folder('source');
    $this->scratch()->file('source/a', 'one');
    $this->kaiseki('store-add', 'here', $this->scratch()->folder('store'));
    $sets = [];
    foreach (['full', 'incr', 'diff', '4', '2'] as $level) {
        usleep(1_000_000 - (int) (fmod(microtime(true), 1) * 1_000_000) + 1000);
        $answer = $this->kaiseki('protect', 'own', "--source=$source", "--level=$level", '--store=here', '--json')->json();
        $sets[$level] = $answer['set'];
        $bases[$level] = $answer['base'];
    }
    expect($bases)->toBe(['full' => null, 'incr' => $sets['full'], 'diff' => $sets['full'], '4' => $sets['full'], '2' => $sets['full']]);
    expect(array_column($this->kaiseki('points', 'own', '--json')->json()['points'], 'base_assumed'))->toBe([
        false,
        false,
        false,
        false,
        false,
    ]);
});

it('says what is wrong with an order to protect', function (array $arguments, string $says): void {
    $source = $this->scratch()->folder('source');
    $answer = $this->kaiseki(
        'protect',
        ...array_map(fn (string $argument): string => str_replace('SOURCE', $source, $argument), $arguments),
        ...['--json'],
    );
    expect($answer->code)->toBe(2)->and($answer->json()['error'])->toContain($says);
})->with([
    [['own'], 'name its folder with --source'],
    [['own', '--source=/nowhere'], 'There is no folder'],
    [['../own', '--source=SOURCE'], 'letters, digits'],
    [['own', '--source=SOURCE', '--level=hourly'], 'not a level'],
    [['own', '--source=SOURCE', '--store=moon'], 'no store named "moon"'],
    [['own', '--source=SOURCE', '--level=log', '--store=boathouse'], 'has no logs'],
]);

it('does not write into a folder that was adopted, nor copy there', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one');
    $set = $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $source = $this->scratch()->folder('source');
    expect(
        $this->kaiseki('protect', 'own', "--source=$source", '--level=full', '--store=adopted-tree', '--json')->json()['error'],
    )->toContain('read-only');
    expect($this->kaiseki('copy', 'tree', $set, '--to=adopted-tree', '--json')->json()['error'])->toContain('read-only');
    expect(scandir($archives->folder))->toHaveCount(3);
});

it('copies a set with what lies beside it, and not twice', function (): void {
    $this->scratch()->file('source/a', 'one');
    $this->kaiseki('store-add', 'here', $this->scratch()->folder('store'));
    $this->kaiseki('store-add', 'there', $this->scratch()->folder('second'), '--site=pier-nine', '--read-mb-s=50', '--lane-mb-s=2');
    $set = $this->kaiseki('protect', 'own', "--source={$this->scratch()->path}/source", '--level=full', '--store=here', '--json')->json()[
        'set'
    ];
    expect($this->kaiseki('copy', 'own', $set, '--to=there')->code)->toBe(0);
    foreach (['tar.gz', 'manifest.jsonl', 'b2sum', 'set.json'] as $ending) {
        expect(md5_file("{$this->scratch()->path}/second/own/$set.$ending"))->toBe(
            md5_file("{$this->scratch()->path}/store/own/$set.$ending"),
        );
    }
    expect($this->kaiseki('copy', 'own', $set, '--to=there', '--json')->json()['error'])->toContain('already');
    // A folder of our own sets can be adopted elsewhere: levels and bases come from what lies beside the archives.
    $adopted = $this->kaiseki('adopt', "{$this->scratch()->path}/second/own", '--as=found', '--json');
    expect($adopted->code)->toBe(0)->and($adopted->json()['refused'])->toBe([]);
    expect($this->kaiseki('restore', 'found', '--at=2100-01-01T00:00:00Z', '--path=/', "--to={$this->scratch()->path}/out")->code)->toBe(0);
    expect(file_get_contents("{$this->scratch()->path}/out/a"))->toBe('one');
});

it('has nothing to show for a run that is not there, or not over', function (): void {
    expect($this->kaiseki('proof', '999', '--json')->code)
        ->toBe(2)
        ->and($this->kaiseki('put-back', '999', '--json')->code)
        ->toBe(2)
        ->and($this->kaiseki('resume', '999', '--json')->code)
        ->toBe(2);
    expect($this->kaiseki('check-proof', '/nowhere', '--json')->json()['error'])->toContain('There is no file');
    expect($this->kaiseki('check-proof', $this->scratch()->file('x', '{}'), '--json')->json()['error'])->toContain('not a proof');
});

it('finds a copy that was put beside, on its second adoption too', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('a', 'one')->put('b', 'two');
    $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $out = "{$this->scratch()->path}/out";
    foreach (['', ' (2026-10-01 0200)', ' (2026-10-01 0200 2)'] as $mark) {
        expect($this->kaiseki('restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/tree/a', "--to=$out")->code)->toBe(0);
        expect(file_get_contents("$out/tree/a$mark"))->toBe('one');
    }
});
