<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Volume\Btrfs;
use Kaiseki\Core\Volume\BtrfsPacked;
use Kaiseki\Core\Volume\UnreadableVolume;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Disks;
use Tests\Support\FixtureVolume;
use Tests\Support\Scratch;

/*
 * Oracles: Linux itself, which wrote the volume of the fixture and told what it read of it (tests/Fixtures/btrfs/make.sh), and mkfs.btrfs,
 * which makes volumes of other shapes from a folder without mounting them.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->written = fn (): Btrfs => Btrfs::on(Disks::raw(FixtureVolume::unpacked('btrfs', $this->scratch))) ?? throw new LogicException;
});
afterEach(fn () => $this->scratch->remove());

it('gives what Linux reads of it: compressed in three ways, subvolumes and snapshots', function (): void {
    $volume = ($this->written)();
    $found = FixtureVolume::found($volume);
    $told = FixtureVolume::told('btrfs');
    // Linux shows a folder that leads nowhere where a subvolume was that a snapshot does not take along.
    unset($told['snapshot/inner']);
    foreach ($told as $path => $one) {
        expect([$path, ...$found[$path] ?? []])->toBe([$path, ...$one]);
        unset($found[$path]);
    }
    expect($found)->toBe([])->and([$volume->type(), $volume->label(), $volume->losses()])->toBe(['Btrfs', 'harbour', []]);
});

it('gives attributes that people set, and the names that one file has', function (): void {
    $volume = ($this->written)();
    $root = $volume->root();
    $tide = $volume->child($root, 'tide.txt') ?? throw new LogicException;
    $same = $volume->child($volume->child($root, 'quay') ?? throw new LogicException, 'the same') ?? throw new LogicException;
    expect($tide->extended)->toEqual(['SCHILY.xattr.user.owner' => 'purser', 'SCHILY.xattr.user.note' => str_repeat('x', 40)])
        ->and([$same->node, $same->version->linkGroup])->toBe([$tide->node, $tide->version->linkGroup])
        ->and($tide->version->linkGroup)->not->toBe(0)
        ->and($volume->child($root, 'attributes')->extended ?? [])->toHaveCount(60);
});

it('gives access lists, and what says how the system treats a file', function (): void {
    expect(FixtureVolume::guarded(($this->written)()))->toEqual(FixtureVolume::GUARDED);
});

it('gives a tree as mkfs.btrfs put it there', function (array $options): void {
    $random = new Randomizer(new Mt19937(3));
    $expected = [];
    foreach (range(1, 300) as $i) {
        $bytes = $random->getBytes([1, 100, 3000, 60_000][$i % 4]);
        $path = ['', 'quay/', 'quay/logs/'][$i % 3]."file $i";
        touch($this->scratch->file("tree/$path", $bytes), 1_600_000_000 + $i);
        $expected[$path] = [1_600_000_000 + $i, md5($bytes)];
    }
    $image = $this->scratch->at('made.raw');
    (new Process(['truncate', '-s', '160M', $image]))->mustRun();
    (new Process(['mkfs.btrfs', '-q', '--rootdir', $this->scratch->at('tree'), ...$options, $image]))->setTimeout(null)->mustRun();
    $volume = Btrfs::on(Disks::raw($image)) ?? throw new LogicException('no file system');
    $found = [];
    foreach (FixtureVolume::files($volume) as $path => $file) {
        $is = $file->version;
        $content = $is->kind === EntryKind::File ? md5(implode('', [...$volume->content($file)])) : '';
        $is->kind === EntryKind::File && $found[$path] = [intdiv($is->mtime, 1_000_000_000), $content];
    }
    ksort($expected);
    ksort($found);
    expect($found === $expected)->toBeTrue();
})->with([
    'as usual' => [[]],
    'once, with small nodes' => [['-m', 'single', '-n', '4096']],
    'as it was made before' => [['-O', '^no-holes', '-R', '^free-space-tree']],
    'with another digest' => [['--csum', 'xxhash']],
]);

it('says of one that lies on several disks that it does', function (): void {
    foreach (['a', 'b'] as $disk) {
        (new Process(['truncate', '-s', '128M', $this->scratch->at($disk)]))->mustRun();
    }
    (new Process(['mkfs.btrfs', '-q', $this->scratch->at('a'), $this->scratch->at('b')]))->mustRun();
    expect(fn () => Btrfs::on(Disks::raw($this->scratch->at('a'))))->toThrow(UnreadableVolume::class, 'lies on 2 disks');
});

it('unpacks nothing that is none', function (): void {
    $random = new Randomizer(new Mt19937(5));
    foreach (range(1, 300) as $i) {
        foreach ([1, 2, 3, 4] as $how) {
            $bytes = ($i % 2 === 0 ? "\x28\xb5\x2f\xfd" : '').$random->getBytes($random->getInt(1, 300));
            try {
                expect(strlen(BtrfsPacked::unpack($how, $bytes, 8192)))->toBeLessThanOrEqual(8192);
            } catch (UnreadableVolume $wrong) {
                expect($wrong->getMessage())->not->toBe('');
            }
        }
    }
});

it('ends, and says what is wrong, whatever bytes are other ones', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $image = FixtureVolume::unpacked('btrfs', $this->scratch);
    $bytes = (string) file_get_contents($image);
    $fsid = substr($bytes, 65_536 + 32, 16);
    $nodes = [];
    for ($at = 1 << 20; ($at = strpos($bytes, $fsid, $at)) !== false; $at++) {
        ($at - 32) % 4096 === 0 && $nodes[] = $at - 32;
    }
    FixtureVolume::withOddBytes($image, 40, 30, $random, Btrfs::on(...), fn (): int => $random->getInt(0, 19) === 0
        ? 65_536 + $random->getInt(72, 900)
        : $nodes[$random->getInt(0, count($nodes) - 1)] + $random->getInt(48, 4095));
})->with([1, 2]);
