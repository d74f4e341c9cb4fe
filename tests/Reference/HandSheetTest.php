<?php

declare(strict_types=1);

use Tests\Support\RandomTree;
use Tests\Support\TreeListing;

// The sheet is run by sh, with GNU tar, coreutils and nothing of ours; find(1) compares what came of it with what our own
// restore gives, and the tree with GNU tar's set of it.

it('gives the same tree by hand', function (int $seed): void {
    $scratch = $this->scratch();
    $tree = new RandomTree($scratch->folder('src').'/tree', $seed + 40);
    $archives = $scratch->folder('archives');
    $format = $seed % 2 === 0 ? 'posix' : 'gnu';
    $suffix = $seed % 3 === 0 ? '.tar' : '.tar.gz';
    foreach (range(0, 3) as $day) {
        if ($day > 0) {
            usleep(20_000);
            $tree->change(10);
        }
        $scratch->run(
            'tar',
            $suffix === '.tar' ? '-cf' : '-czf',
            sprintf('%s/tree.%s.202610%02dT020000Z%s', $archives, $day === 0 ? 'full' : 'incr', $day + 1, $suffix),
            "--format=$format",
            '--sparse',
            "--listed-incremental={$scratch->path}/snar",
            '-C',
            dirname($tree->root),
            'tree',
        );
    }
    expect($this->kaiseki('adopt', $archives, '--as=tree')->code)->toBe(0);
    foreach (['2026-10-01', '2026-10-04'] as $date) {
        $sheet = $this->kaiseki('hand-sheet', 'tree', "--at={$date}T12:00:00Z", "--out={$scratch->path}/sheet-$date.sh");
        expect($sheet->code)->toBe(0, $sheet->text);
        $by = $scratch->folder("by-hand-$date");
        expect($scratch->run('env', '-i', 'PATH=/usr/bin:/bin:/usr/sbin', 'sh', "{$scratch->path}/sheet-$date.sh", $by))->toContain(
            'files are right.',
        );
        $ours = $this->kaiseki('restore', 'tree', "--at={$date}T12:00:00Z", '--path=/', "--to={$scratch->path}/ours-$date", '--json');
        expect(in_array($ours->code, [0, 4], true))->toBeTrue($ours->text);
        expect(TreeListing::of($by))->toBe(TreeListing::of("{$scratch->path}/ours-$date"));
    }
})->with([1, 2, 3, 4, 5, 6]);

it('takes a selection, goes round a damaged archive, and names what it cannot give', function (): void {
    $archives = (new Tests\Support\Archives($this->scratch()))->put('a', 'a')->put('sub/b', 'b')->put("it's \"odd\"\n\$(touch hurt)", 'c');
    $full = $archives->dump('full');
    $archives->put('sub/d', 'd')->put('sub/e', str_repeat('b', 1000));
    $increment = $archives->dump('incr');
    $this->kaiseki('adopt', $archives->folder, '--as=tree');
    $this->kaiseki('protect', 'tree', "--source={$archives->source}");
    $out = $this->scratch()->folder('out');
    $sheet = "{$this->scratch()->path}/sheet.sh";
    expect($this->kaiseki('hand-sheet', 'tree', '--at=2026-10-02T12:00:00Z', '--path=/tree', "--out=$sheet")->code)->toBe(0);
    $this->scratch()->run('sh', $sheet, $out);
    expect(file_get_contents("$out/tree/it's \"odd\"\n\$(touch hurt)"))
        ->toBe('c')
        ->and(file_exists("$out/hurt"))
        ->toBeFalse()
        ->and(file_exists("$out/.hand-sheet"))
        ->toBeFalse();
    unlink($archives->file($increment));
    expect($this->kaiseki('hand-sheet', 'tree', "--point=$full", '--path=/tree/sub', '--json')->json())->toHaveKey('script_base64');
    expect($this->kaiseki('hand-sheet', 'tree', '--at=2026-10-02T12:00:00Z', '--path=/no/such')->code)->toBe(2);
});
