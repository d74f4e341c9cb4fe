<?php

declare(strict_types=1);

use App\Models\Run;
use App\Models\Store;
use Symfony\Component\Process\Process;
use Tests\Support\Archives;
use Tests\Support\TarBytes;
use Tests\Support\TreeListing;

beforeEach(function (): void {
    $this->archives = (new Archives($this->scratch()))->put('a', 'from the archive')->put('sub/b', 'b of the archive')->put('sub/c', 'c');
    $this->set = $this->archives->dump('full');
    $this->kaiseki('adopt', $this->archives->folder, '--as=tree');
    $this->out = $this->scratch()->path.'/out';
    $this->restore = fn (string ...$more) => $this->kaiseki('restore', 'tree', '--at=2026-11-01T00:00:00Z', '--json', ...$more);
});

it('makes the target when only its last part is missing', function (): void {
    $answer = ($this->restore)('--path=/tree/sub', "--to={$this->out}");
    expect($answer->code)->toBe(0)->and(file_get_contents("{$this->out}/tree/sub/b"))->toBe('b of the archive');
    expect($answer->json()['files'])->toBe(2)->and(file_exists("{$this->out}/tree/a"))->toBeFalse();
    expect(glob("{$this->out}/.kaiseki*") ?: [])->toBe([]);
});

it('says what is wrong with a target, and touches nothing', function (): void {
    $cases = [
        "{$this->scratch()->path}/no/such/place" => 'does not exist',
        $this->scratch()->file('a-file', 'x') => 'it is no folder',
        $this->archives->folder => 'lies in a store',
        getenv('KAISEKI_HOME').'/keys' => 'the home of Kaiseki itself',
    ];
    foreach ($cases as $target => $says) {
        $answer = ($this->restore)('--path=/', "--to=$target");
        expect($answer->code)->toBe(3)->and($answer->json()['error'])->toContain($says);
    }
    expect(Run::query()->count())->toBe(0);
});

it('deals with what stands there as it was told', function (string $rule, array $expected, int $leftOut): void {
    mkdir("{$this->out}/tree/sub", 0755, true);
    file_put_contents("{$this->out}/tree/a", 'was there');
    file_put_contents("{$this->out}/tree/own", 'not ours');
    $answer = ($this->restore)('--path=/', "--to={$this->out}", "--conflict=$rule");
    expect($answer->code)->toBe(0, $answer->text)->and($answer->json()['left_out'])->toHaveCount($leftOut);
    foreach ($expected as $path => $content) {
        expect(file_get_contents("{$this->out}/".str_replace('RUN', (string) $answer->json()['run'], $path)))->toBe($content);
    }
    expect(file_get_contents("{$this->out}/tree/own"))
        ->toBe('not ours')
        ->and(file_get_contents("{$this->out}/tree/sub/b"))
        ->toBe('b of the archive');
})->with([
    'beside' => ['beside', ['tree/a' => 'was there', 'tree/a (2026-10-01 0200)' => 'from the archive'], 0],
    'renamed' => ['rename-present', ['tree/a' => 'from the archive', 'tree/a (2026-10-01 0200)' => 'was there'], 0],
    'missing only' => ['missing-only', ['tree/a' => 'was there'], 1],
    'replaced' => ['replace', ['tree/a' => 'from the archive', '.kaiseki-set-aside-RUN/tree/a' => 'was there'], 0],
]);

it('puts back exactly what was there before a run in place', function (): void {
    mkdir("{$this->out}/tree/sub", 0755, true);
    file_put_contents("{$this->out}/tree/a", 'was there');
    symlink('elsewhere', "{$this->out}/tree/sub/b");
    touch("{$this->out}/tree/a", 1_700_000_000);
    chmod("{$this->out}/tree/a", 0600);
    $before = TreeListing::of($this->out);
    $run = ($this->restore)('--path=/', "--to={$this->out}", '--conflict=replace')->json()['run'];
    expect(is_link("{$this->out}/tree/sub/b"))->toBeFalse();
    $answer = $this->kaiseki('put-back', (string) $run, '--json');
    expect($answer->code)->toBe(0)->and($answer->json()['returned'])->toBe(2);
    expect(TreeListing::of($this->out))->toBe($before);
});

it('leaves what somebody changed since, and names it', function (): void {
    mkdir("{$this->out}/tree", 0755, true);
    file_put_contents("{$this->out}/tree/a", 'was there');
    $run = ($this->restore)('--path=/', "--to={$this->out}", '--conflict=replace')->json()['run'];
    file_put_contents("{$this->out}/tree/a", 'changed since');
    file_put_contents("{$this->out}/tree/sub/mine", 'made since');
    $answer = $this->kaiseki('put-back', (string) $run, '--json');
    expect($answer->code)->toBe(4)->and(array_column($answer->json()['left'], 'path'))->toContain('tree/a', 'tree/sub/mine');
    expect(file_get_contents("{$this->out}/tree/a"))
        ->toBe('changed since')
        ->and(file_get_contents("{$this->out}/tree/sub/mine"))
        ->toBe('made since');
    expect(file_get_contents("{$this->out}/.kaiseki-set-aside-$run/tree/a"))->toBe('was there');
});

it('puts all into one folder and numbers names that clash', function (): void {
    $this->archives->put('sub/a', 'another a')->put('deep/er/A', 'a third');
    $this->archives->dump('incr');
    $this->kaiseki('adopt', $this->archives->folder, '--as=tree');
    expect(($this->restore)('--path=/', "--to={$this->out}", '--flat')->code)->toBe(0);
    $names = array_values(array_diff(scandir($this->out) ?: [], ['.', '..']));
    expect($names)->toHaveCount(5);
    $contents = array_map(fn (string $name): string => (string) file_get_contents("{$this->out}/$name"), $names);
    sort($contents);
    expect($contents)->toBe(['a third', 'another a', 'b of the archive', 'c', 'from the archive']);
});

it('writes through no link that stands in the target', function (): void {
    $outside = $this->scratch()->folder('outside');
    mkdir("{$this->out}/tree", 0755, true);
    symlink($outside, "{$this->out}/tree/sub");
    $answer = ($this->restore)('--path=/', "--to={$this->out}", '--conflict=beside');
    expect($answer->code)
        ->toBe(0)
        ->and(scandir($outside))
        ->toBe(['.', '..']);
    expect(file_get_contents("{$this->out}/tree/sub (2026-10-01 0200)/b"))->toBe('b of the archive');
    $answer = ($this->restore)('--path=/', "--to={$this->out}", '--conflict=replace');
    expect($answer->code)
        ->toBe(0)
        ->and(scandir($outside))
        ->toBe(['.', '..'])
        ->and(is_link("{$this->out}/tree/sub"))
        ->toBeFalse();
});

it('keeps an archive from writing outside by a link of its own', function (): void {
    $outside = $this->scratch()->folder('outside');
    $folder = $this->scratch()->folder('hostile');
    TarBytes::new()
        ->member('door', '', '2', ['link' => $outside])
        ->member('door/escaped', 'x')
        ->member('etc', '', '2', ['link' => '/etc'])
        ->member('hard', '', '1', ['link' => '../../etc/passwd'])
        ->member('dev', '', '3')
        ->member('suid', 'run me', '0', ['mode' => "0006755\0"])
        ->write("$folder/h.full.20261001T020000Z.tar");
    $this->kaiseki('adopt', $folder, '--as=h');
    $answer = $this->kaiseki('restore', 'h', '--at=2026-11-01T00:00:00Z', '--path=/', "--to={$this->out}", '--json');
    expect(scandir($outside))
        ->toBe(['.', '..'])
        ->and($answer->code)
        ->toBe(0, $answer->text);
    expect(fileperms("{$this->out}/suid") & 07777)
        ->toBe(0755)
        ->and(file_exists("{$this->out}/dev"))
        ->toBeFalse();
    expect(file_get_contents("{$this->out}/door/escaped"))->toBe('x');
    $kept = $this->kaiseki('restore', 'h', '--at=2026-11-01T00:00:00Z', '--path=/suid', "--to={$this->out}-2", '--keep-setid', '--json');
    expect(fileperms("{$this->out}-2/suid") & 07777)
        ->toBe(06755)
        ->and($kept->code)
        ->toBe(0);
});

it('leaves nothing behind when the volume is full', function (): void {
    $mount = $this->scratch()->folder('small');
    $this->scratch()->run('mount', '-t', 'tmpfs', '-o', 'size=1m', 'none', $mount);
    try {
        file_put_contents("$mount/kept", 'was there');
        $this->archives->put('big', random_bytes(900_000))->put('bigger', random_bytes(700_000));
        $this->archives->dump('incr');
        $this->kaiseki('adopt', $this->archives->folder, '--as=tree');
        // Told before the first byte, where the sum alone shows it ...
        $answer = ($this->restore)('--path=/', "--to=$mount");
        expect($answer->code)->toBe(4)->and($answer->json()['error'])->toContain('free, and')->toContain('Nothing was put in place');
        // ... and met on the way, where somebody else takes the room meanwhile (here: blocks that small files fill up).
        foreach (range(1, 200) as $i) {
            $this->archives->put("many/$i", "$i");
        }
        $this->archives->dump('incr');
        $this->kaiseki('adopt', $this->archives->folder, '--as=tree');
        file_put_contents("$mount/filler", str_repeat('x', 400_000));
        $answer = ($this->restore)('--path=/tree/many', "--to=$mount");
        expect($answer->code)->toBe(4)->and($answer->json()['error'])->toContain('is full');
        expect($answer->json()['state'])->toBe('failed');
        expect(array_values(array_diff(scandir($mount) ?: [], ['.', '..'])))->toBe(['filler', 'kept']);
    } finally {
        $this->scratch()->run('umount', $mount);
    }
});

it('lets one run at a time work in a target', function (): void {
    $lock = new PDO(
        'mysql:unix_socket='.getenv('KAISEKI_HOME').'/sql/db.sock;dbname=kaiseki',
        posix_getpwuid(posix_geteuid())['name'],
        '',
    );
    mkdir($this->out);
    $lock->query("SELECT GET_LOCK('kaiseki-".md5('kaiseki'.realpath($this->out))."', 0)");
    $answer = ($this->restore)('--path=/', "--to={$this->out}");
    expect($answer->code)->toBe(4)->and($answer->json()['error'])->toContain('another run is at work there');
});

it('says plainly what is missing in a call', function (array $options, int $code, string $says): void {
    $answer = $this->kaiseki(
        'restore',
        'tree',
        '--json',
        ...array_map(fn (string $option): string => str_replace('OUT', $this->out, $option), $options),
    );
    expect($answer->code)->toBe($code)->and($answer->json()['error'])->toContain($says);
})->with([
    [['--at=2026-11-01T00:00:00Z', '--to=OUT'], 2, '--path'],
    [['--at=2026-11-01T00:00:00', '--to=OUT', '--path=/'], 2, 'no offset'],
    [['--to=OUT', '--path=/'], 2, '--at=MOMENT or with --point=SET'],
    [['--at=2026-11-01T00:00:00Z', '--path=/'], 2, '--to=DIR or with --in-place'],
    [['--at=2026-11-01T00:00:00Z', '--path=/', '--in-place'], 3, 'no place of its own'],
    [['--at=2026-11-01T00:00:00Z', '--path=/nothing', '--to=OUT'], 2, 'There is no "/nothing"'],
    [['--at=2026-11-01T00:00:00Z', '--path=/', '--to=OUT', '--conflict=merge'], 2, '--conflict is one of'],
    [['--at=2020-01-01T00:00:00Z', '--path=/', '--to=OUT'], 3, 'no usable point'],
    [['--point=nothing', '--path=/', '--to=OUT'], 2, 'no set named'],
    [['--at=2026-11-01T00:00:00Z', '--demand=checked', '--path=/', '--to=OUT'], 3, 'no copy of it was read back'],
]);

it('only says what it would do in a dry run', function (): void {
    $answer = ($this->restore)('--path=/', "--to={$this->out}", '--dry-run');
    expect($answer->code)->toBe(0)->and($answer->json()['order'])->toContain('Put back 3 files')->and(file_exists($this->out))->toBeFalse();
});

it('proves what it did, for others to check without Kaiseki', function (): void {
    $run = (string) ($this->restore)('--path=/', "--to={$this->out}")->json()['run'];
    $file = $this->scratch()->path.'/proof.json';
    expect($this->kaiseki('proof', $run, "--out=$file", '--json')->code)->toBe(0);
    expect($this->kaiseki('check-proof', $file, '--json')->json())->toMatchArray(['sound' => true, 'manifest' => true, 'right' => true]);
    $this->scratch()->run('sh', '-c', "cd '{$this->out}' && b2sum --length=256 --check --strict '$file.b2sum'");
    $evidence = json_decode((string) file_get_contents($file), true)['evidence'];
    expect($evidence['point'])->toBe($this->set)->and($evidence['files'])->toBe(3)->and($evidence['read'][0]['members'])->toBe(3);
    file_put_contents($file, str_replace('"files":3', '"files":4', (string) file_get_contents($file)));
    expect($this->kaiseki('check-proof', $file, '--json')->code)->toBe(4);
    file_put_contents("$file.b2sum", 'x', FILE_APPEND);
    expect($this->kaiseki('check-proof', $file, '--json')->json()['manifest'])->toBeFalse();
});

it('reads from the copy that a plan says, and goes round stores that are to be avoided', function (): void {
    Store::query()
        ->where('name', 'adopted-tree')
        ->update(['site' => 'pier-nine']);
    $this->kaiseki('store-add', 'near', $this->scratch()->folder('near'), '--site=boathouse', '--read-mb-s=100');
    $this->kaiseki('store-add', 'slow', $this->scratch()->folder('slow'), '--site=pier-nine', '--lane-mb-s=0.001', '--setup-s=5');
    expect($this->kaiseki('copy', 'tree', $this->set, '--to=near')->code)->toBe(0);
    $plan = fn (string ...$more): array => $this->kaiseki('plan', 'tree', '--at=2026-11-01T00:00:00Z', '--json', ...$more)->json();
    expect($plan()['reading_list'][0]['store'])->toBe('near');
    expect($plan('--use=adopted-tree')['reading_list'][0]['store'])->toBe('adopted-tree');
    expect($plan('--avoid=near')['reading_list'][0]['store'])->toBe('adopted-tree');
    $none = $this->kaiseki('plan', 'tree', '--at=2026-11-01T00:00:00Z', '--avoid=near', '--avoid=adopted-tree', '--json');
    expect($none->code)->toBe(3);
    unlink($this->archives->file($this->set));
    expect(($this->restore)('--path=/', "--to={$this->out}")->code)->toBe(0);
});

it('tells what to do when nothing runs', function (): void {
    $process = new Process([PHP_BINARY, base_path('bin/kaiseki'), 'points', 'tree', '--json'], null, [
        'KAISEKI_HOME' => $this->scratch()->path.'/nowhere',
    ]);
    $process->run();
    expect($process->getExitCode())->toBe(3)->and($process->getErrorOutput())->toContain('bin/start');
    expect(json_decode($process->getOutput(), true)['error'])->toContain('bin/start');
});
