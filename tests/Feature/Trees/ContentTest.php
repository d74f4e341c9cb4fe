<?php

declare(strict_types=1);

use App\Models\Copy;
use Tests\Support\Archives;

/** A chain in which the middle increment alone holds "b", and the differential holds it again. */
function chainWithBridge(Archives $archives): array
{
    $archives->put('a', 'always the same')->put('b', 'first');
    $full = $archives->dump('full');
    $archives->put('b', 'second');
    $middle = $archives->dump('incr');
    $archives->put('c', 'new');
    $last = $archives->dump('incr');
    $diff = $archives->dump('diff');

    return [$full, $middle, $last, $diff];
}

it('goes round a missing increment where another set holds the same content', function (): void {
    $archives = new Archives($this->scratch());
    [$full, $middle, $last, $diff] = chainWithBridge($archives);
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    unlink($archives->file($middle));
    $points = array_column($this->kaiseki('points', 'tree', '--json')->json()['points'], 'usable', 'set');
    expect($points)->toBe([$full => 'whole', $middle => 'whole', $last => 'whole', $diff => 'whole']);
    foreach ([$middle => ['b' => 'second'], $last => ['b' => 'second', 'c' => 'new']] as $set => $files) {
        $out = "{$this->scratch()->path}/out-$set";
        expect($this->kaiseki('restore', 'tree', "--point=$set", '--path=/', "--to=$out")->code)->toBe(0);
        foreach ($files as $name => $content) {
            expect(file_get_contents("$out/tree/$name"))->toBe($content);
        }
    }
});

it('loses only what lies nowhere else, and judges a selection by its own versions', function (): void {
    $archives = new Archives($this->scratch());
    [$full, $middle, $last, $diff] = chainWithBridge($archives);
    unlink($archives->file($diff));
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $archives->cut($middle, 40);
    $points = array_column($this->kaiseki('points', 'tree', '--json')->json()['points'], 'usable', 'set');
    expect($points)->toBe([$full => 'whole', $middle => 'part', $last => 'part']);

    $chosen = $this->kaiseki('points', 'tree', '--at=2026-11-01T00:00:00Z', '--json')->json();
    expect($chosen['chosen'])
        ->toBe($full)
        ->and(array_column($chosen['passed_over'], 'set'))
        ->toBe([$last, $middle]);
    expect($chosen['passed_over'][0]['because'])->toContain('1 of its 3 files is in no archive that can be read');

    // For "c" alone the newest point is good.
    $plan = $this->kaiseki('plan', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/tree/c', '--json')->json();
    expect($plan['point'])
        ->toBe($last)
        ->and(array_column($plan['reading_list'], 'set'))
        ->toBe([$last]);
    $out = "{$this->scratch()->path}/out";
    expect($this->kaiseki('restore', 'tree', '--at=2026-11-01T00:00:00Z', '--path=/tree/c', "--to=$out")->code)->toBe(0);
    expect(file_get_contents("$out/tree/c"))->toBe('new')->and(file_exists("$out/tree/a"))->toBeFalse();
});

it('finds a flipped bit when it reads it, takes the content from another set, and marks the copy', function (): void {
    $archives = new Archives($this->scratch(), '.tar');
    $archives->put('a', str_repeat('x', 5000));
    $full = $archives->dump('full');
    $archives->put('b', 'new');
    $archives->dump('incr');
    $again = $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $bytes = (string) file_get_contents($archives->file($full));
    $archives->flip($full, (int) strpos($bytes, 'xxxx') + 100);
    $out = "{$this->scratch()->path}/out";
    $answer = $this->kaiseki('restore', 'tree', "--point=$full", '--path=/', "--to=$out", '--json');
    expect($answer->code)->toBe(0, $answer->text)->and(file_get_contents("$out/tree/a"))->toBe(str_repeat('x', 5000));
    expect(Copy::query()->where('state', 'damaged')->sole()->state_because)->toContain('its digest differs');
    // It is known from now on, and with the other full gone the content is nowhere.
    unlink($archives->file($again));
    $answer = $this->kaiseki('restore', 'tree', "--point=$full", '--path=/tree/a', "--to={$this->scratch()->path}/out2", '--json');
    expect($answer->code)->not->toBe(0)->and(file_exists("{$this->scratch()->path}/out2/tree/a"))->toBeFalse();
});

it('still gives what is sound in a copy that is known to be damaged', function (): void {
    $archives = new Archives($this->scratch(), '.tar');
    $archives->put('good', str_repeat('g', 3000))->put('hit', str_repeat('h', 3000));
    $full = $archives->dump('full');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $archives->flip($full, (int) strpos((string) file_get_contents($archives->file($full)), 'hhhh') + 50);
    $out = "{$this->scratch()->path}/out";
    $answer = $this->kaiseki('restore', 'tree', "--point=$full", '--path=/', "--to=$out", '--json');
    expect($answer->code)
        ->toBe(4)
        ->and(array_column($answer->json()['left_out'], 'path'))
        ->toBe(['tree/hit']);
    expect(file_get_contents("$out/tree/good"))->toBe(str_repeat('g', 3000))->and(file_exists("$out/tree/hit"))->toBeFalse();
});

it('tells versions, totals and names from the catalog alone', function (): void {
    $archives = new Archives($this->scratch());
    $archives->put('docs/Plan.txt', 'first')->put("odd/\xff\xfe", 'bytes')->put('docs/deep/er', str_repeat('x', 100));
    $archives->dump('full');
    $archives->put('docs/Plan.txt', 'second one');
    $archives->dump('incr');
    $archives->delete('docs/Plan.txt');
    $archives->dump('incr');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $found = $this->kaiseki('find', 'tree', 'plan', '--json')->json()['versions'];
    expect(array_column($found, 'size'))
        ->toBe([10, 5])
        ->and(array_column($found, 'until'))
        ->toBe(['2026-10-03T02:00:00Z', '2026-10-02T02:00:00Z']);
    expect($this->kaiseki('find', 'tree', 'plan*', '--json')->json()['versions'])->toBe([]);
    expect($this->kaiseki('find', 'tree', 'P*.t?t', '--from=2026-10-02T03:00:00Z', '--json')->json()['versions'])->toHaveCount(1);
    $docs = fn (string $at): array => array_column(
        $this->kaiseki('browse', 'tree', "--at=$at", '--path=/tree', '--json')->json()['entries'],
        null,
        'name',
    )['docs'];
    expect([$docs('2026-10-01T02:00:00Z')['files'], $docs('2026-10-01T02:00:00Z')['bytes']])->toBe([2, 105]);
    expect([$docs('2026-10-02T02:00:00Z')['files'], $docs('2026-10-02T02:00:00Z')['bytes']])->toBe([2, 110]);
    expect([$docs('2026-10-03T02:00:00Z')['files'], $docs('2026-10-03T02:00:00Z')['bytes']])->toBe([1, 100]);
    $odd = $this->kaiseki('browse', 'tree', '--at=2026-10-03T02:00:00Z', '--path=/tree/odd', '--json')->json()['entries'][0];
    expect($odd['name'])->toBe('%FF%FE')->and($odd['encoded'])->toBeTrue();
    $gone = $this->kaiseki(
        'restore',
        'tree',
        '--at=2026-10-03T02:00:00Z',
        '--path=/tree/docs/Plan.txt',
        "--to={$this->scratch()->path}/out",
        '--json',
    );
    expect($gone->code)->toBe(2)->and($gone->json()['error'])->toContain('It was last there before the point of 2026-10-03T02:00:00Z');
});

it('keeps folder totals right over many sets, checkpoints included', function (): void {
    $archives = new Archives($this->scratch(), '.tar');
    $archives->put('x/keep', 'k');
    $sheet = [];
    foreach (range(1, 36) as $day) {
        $archives->put("x/f$day", str_repeat('y', $day));
        $name = $archives->dump($day === 1 ? 'full' : 'incr');
        $sheet[] = [
            'file' => "$name.tar",
            'level' => $day === 1 ? 'full' : 'incr',
            'captured_at' => gmdate('Y-m-d\TH:i:s\Z', 1_790_000_000 + $day * 86400),
        ];
    }
    $this->kaiseki(
        'adopt',
        $archives->folder,
        '--as=tree',
        '--sheet='.$this->scratch()->file('sheet.json', (string) json_encode($sheet)),
    );
    foreach ([1, 5, 32, 33, 34, 36] as $day) {
        $folder = $this->kaiseki('browse', 'tree', '--at='.$sheet[$day - 1]['captured_at'], '--path=/tree', '--json')->json()[
            'entries'
        ][0];
        expect([$folder['files'], $folder['bytes']])->toBe([$day + 1, 1 + intdiv($day * ($day + 1), 2)]);
    }
});
