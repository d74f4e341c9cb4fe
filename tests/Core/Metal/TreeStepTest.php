<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Archive\TarWriter;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\Metal\SentTree;
use Kaiseki\Core\Metal\TreeRecord;
use Kaiseki\Core\Metal\TreeSender;
use Kaiseki\Core\Metal\TreeStep;
use Kaiseki\Core\Metal\VolumeToSend;
use Kaiseki\Core\Volume\FileSystems;
use Kaiseki\Core\Volume\FoundFile;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Scratch;

/*
 * What lies somewhere becomes another tree by what goes and what comes: seeded random changes, done by xargs, rm and GNU tar as the medium
 * has them do, and compared by what find, sha256sum and getfattr say then.
 */

/** A tree whose contents a catalog knows by their digests. */
final class KnownTree implements SentTree
{
    public function __construct(private readonly SentTree $of)
    {
    }

    public function root(): FoundFile
    {
        return $this->of->root();
    }

    public function entries(): iterable
    {
        foreach ($this->of->entries() as $path => $file) {
            $digest = $file->version->needsBytes() ? sodium_crypto_generichash(implode('', [...$this->of->content($file)])) : null;
            $version = new Version(...['digest' => $digest] + get_object_vars($file->version));
            yield $path => new FoundFile($file->node, $version, $file->extended);
        }
    }

    public function content(FoundFile $file): iterable
    {
        return $this->of->content($file);
    }
}

beforeEach(function (): void {
    $this->scratch = new Scratch(sys_get_temp_dir()); // access lists need a file system that keeps them
    $this->tree = $this->scratch->folder('tree');
    $this->back = $this->scratch->folder('back');
    $this->in = fn (string $script, string $input = ''): string => (new Process(['sh', '-c', $script], $this->back, null, $input))
        ->mustRun()->getOutput();
    /** A file system of what is in the tree now. */
    $this->volume = function (int $number): SentTree {
        $image = $this->scratch->at("image$number");
        $this->scratch->run('truncate', '-s', '24M', $image);
        $this->scratch->run('mke2fs', '-q', '-t', 'ext4', '-d', $this->tree, $image);

        return new VolumeToSend(FileSystems::on(FileDisk::open($image)));
    };
    /** What the medium says of what is there. */
    $told = fn (string $part, string $script) => fopen($this->scratch->file($part, ($this->in)($script)), 'rb');
    $this->said = fn (): array => array_map($told, [
        'entries', 'digests', 'attributes',
    ], [
        "find . -printf '%y %m %U %G %s %T@ %n %p\\0%l\\0'",
        'find . -mindepth 1 -type f -print0 | xargs -0 -r sha256sum -z',
        'find . -print0 | xargs -0 -r getfattr --no-dereference --dump --match=- --encoding=hex 2>/dev/null',
    ]);
    $this->archive = function (Closure $pour): int {
        $archive = fopen($this->scratch->at('sent.tar.gz'), 'w+b');
        $bytes = 0;
        $pour(new TarWriter(new GzipMemberWriter($archive)), function (int $files, int $more) use (&$bytes): void {
            $bytes += $more;
        });
        fclose($archive);
        ($this->in)('tar --numeric-owner --same-owner --delay-directory-restore --acls --xattrs "--xattrs-include=*" -xpzf "'.
            $this->scratch->at('sent.tar.gz').'"');

        return $bytes;
    };
    $this->record = fn (string $name): TreeRecord => new TreeRecord(fopen($this->scratch->at($name), 'w+b'));
    $this->first = function (SentTree $tree): TreeRecord {
        $record = ($this->record)('record');
        ($this->archive)(fn (TarWriter $tar, Closure $advanced) => (new TreeSender($tree, $record))->pour($tar, $advanced));

        return $record;
    };
    /** @return array{TreeRecord, int, int} the record of it, bytes that came, names that went */
    $this->step = function (SentTree $to, TreeRecord $was, int $number): array {
        $step = new TreeStep($to, $was, ...($this->said)());
        ($this->in)('xargs -0 -r rm -rf --', (string) stream_get_contents($step->gone()));
        $record = ($this->record)("record$number");
        $bytes = ($this->archive)(fn (TarWriter $tar, Closure $advanced) => $step->pour($tar, $record, $advanced));
        $record->compare(...($this->said)());

        return [$record, $bytes, $step->goes];
    };
});

afterEach(fn () => $this->scratch->remove());

function changed(Randomizer $random, string $tree): void
{
    $all = array_filter(explode("\0", (new Process(['find', '.', '-mindepth', '1', '-print0'], $tree))->mustRun()->getOutput()));
    $one = $all === [] ? null : $tree.substr($all[$random->getInt(0, count($all) - 1)], 1);
    $paths = array_map(fn (string $path): string => $tree.substr($path, 1), $all);
    $folders = [$tree, ...array_filter($paths, fn (string $path): bool => is_dir($path) && ! is_link($path))];
    $new = $folders[$random->getInt(0, count($folders) - 1)].'/'.['plain', "odd\n\\name", '-rf', '$(x)', "\xff"][$random->getInt(0, 4)].
        $random->getInt(0, 99);
    $isFile = $one !== null && is_file($one) && ! is_link($one);
    $run = fn (string ...$command): int => (new Process($command))->run();
    $remove = function () use ($one, $run): bool {
        $isGone = $one !== null && $run('rm', '-rf', '--', $one) === 0;
        clearstatcache(true); // what a link led to is remembered

        return $isGone;
    };
    match ($random->getInt(0, 13)) {
        0, 1, 2 => file_exists($new) || file_put_contents($new, $random->getBytes($random->getInt(1, 20_000))),
        3 => file_exists($new) || mkdir($new),
        4 => file_exists($new) || is_link($new) || symlink(['../x', 'plain1', '/etc'][$random->getInt(0, 2)], $new),
        5 => $isFile && ! file_exists($new) && link($one, $new),
        6 => $remove(),
        7 => $isFile && file_put_contents($one, $random->getBytes(max(1, (int) filesize($one)))), // as large as it was
        8 => $isFile && chmod($one, [0600, 0644, 04755][$random->getInt(0, 2)]),
        9 => $one !== null && $run('chown', '-h', (string) $random->getInt(0, 70_000), '--', $one),
        10 => $one !== null && ! is_link($one) && $run('setfattr', '-n', 'user.berth', '-v', (string) $random->getInt(0, 9), '--', $one),
        11 => $one !== null && ! is_link($one) && $run('setfattr', '-x', 'user.berth', '--', $one),
        12 => $remove() && mkdir($one) && file_put_contents("$one/in", 'x'),
        13 => $remove() && file_put_contents($one, 'was something else'),
    };
    clearstatcache(true);
}

it('makes of what is there what is to be there, whatever changed', function (int $seed, bool $isKnown): void {
    $random = new Randomizer(new Mt19937($seed));
    $known = fn (SentTree $tree): SentTree => $isKnown ? new KnownTree($tree) : $tree;
    for ($i = 0; $i < 40; $i++) {
        changed($random, $this->tree);
    }
    $record = ($this->first)($known(($this->volume)(0)));
    for ($number = 1; $number < 4; $number++) {
        for ($i = 0; $i < 15; $i++) {
            changed($random, $this->tree);
        }
        $was = $this->scratch->at($number === 1 ? 'record' : 'record'.($number - 1));
        [$record] = ($this->step)($known(($this->volume)($number)), TreeRecord::kept(fopen($was, 'rb')), $number);
        expect($record->differences)->toBe([]);
    }
})->with([[1, true], [2, false], [3, true], [4, false], [5, true], [6, false], [7, true], [8, false]]);

it('has nothing come that is there, and finds what was changed there behind its back', function (): void {
    foreach (['a', 'b', 'c/d'] as $name) {
        $this->scratch->file("tree/$name", str_repeat($name, 50_000));
    }
    link("$this->tree/a", "$this->tree/c/second");
    $tree = new KnownTree(($this->volume)(0));
    $record = ($this->first)($tree);
    [$record, $bytes, $goes] = ($this->step)($tree, $record, 1);
    expect([$record->differences, $bytes, $goes])->toBe([[], 0, 0]);

    // As large and as old as it was, and another; one more; one less.
    $time = (int) filemtime("$this->back/b");
    file_put_contents("$this->back/b", str_repeat('x', 50_000));
    touch("$this->back/b", $time);
    file_put_contents("$this->back/more", 'more');
    unlink("$this->back/c/second");
    [$record, $bytes, $goes] = ($this->step)($tree, $record, 2);
    expect([$record->differences, $bytes, $goes])->toBe([[], 100_000, 1])
        ->and(fileinode("$this->back/a"))->toBe(fileinode("$this->back/c/second"));
});
