<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Volume\Xfs;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Disks;
use Tests\Support\FixtureVolume;
use Tests\Support\Scratch;

/*
 * Oracles: Linux itself, which wrote the volume of the fixture and told what it read of it (tests/Fixtures/xfs/make.sh), and mkfs.xfs,
 * which makes volumes of other shapes from a list of files without mounting them.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->written = fn (): Xfs => Xfs::on(Disks::raw(FixtureVolume::unpacked('xfs', $this->scratch))) ?? throw new LogicException;
});
afterEach(fn () => $this->scratch->remove());

it('gives what Linux reads of it', function (): void {
    $volume = ($this->written)();
    $found = FixtureVolume::found($volume);
    foreach (FixtureVolume::told('xfs') as $path => $told) {
        expect([$path, ...$found[$path] ?? []])->toBe([$path, ...$told]);
        unset($found[$path]);
    }
    expect($found)->toBe([])->and([$volume->type(), $volume->label()])->toBe(['XFS', 'harbour']);
});

it('gives attributes that people set, and the names that one file has', function (): void {
    $volume = ($this->written)();
    $root = $volume->root();
    $tide = $volume->child($root, 'tide.txt') ?? throw new LogicException;
    $same = $volume->child($volume->child($root, 'quay') ?? throw new LogicException, 'the same') ?? throw new LogicException;
    expect($tide->extended)->toEqual(['SCHILY.xattr.user.owner' => 'purser', 'SCHILY.xattr.user.note' => str_repeat('x', 40)])
        ->and([$same->node, $same->version->linkGroup])->toBe([$tide->node, $tide->version->linkGroup])
        ->and($tide->version->linkGroup)->not->toBe(0);
    $many = $volume->child($root, 'attributes')->extended ?? [];
    expect($many)->toHaveCount(60)->and($many['SCHILY.xattr.user.key59'])->toBe(str_repeat('value 59 ', 6));
});

it('gives access lists, and what says how the system treats a file', function (): void {
    expect(FixtureVolume::guarded(($this->written)()))->toEqual(FixtureVolume::GUARDED);
});

it('tells whether its log has something still to do, as xfs_logprint does', function (): void {
    $says = fn (string $file): bool => preg_match(
        '/state: <CLEAN>/', (new Process(['xfs_logprint', '-t', $file]))->mustRun()->getOutput(),
    ) === 1;
    $ours = fn (string $file): ?bool => Xfs::on(Disks::raw($file))?->isClean();
    $new = $this->scratch->at('new.raw');
    (new Process(['truncate', '-s', '330M', $new]))->mustRun();
    (new Process(['mkfs.xfs', '-q', '-l', 'su=32768', $new]))->mustRun();
    $inUse = $this->scratch->file('in-use.raw', (string) gzdecode((string) file_get_contents(FixtureVolume::file('xfs', 'in-use.raw.gz'))));
    $written = FixtureVolume::unpacked('xfs', $this->scratch);
    expect([$says($new), $says($written), $says($inUse)])->toBe([true, true, false])
        ->and([$ours($new), $ours($written), $ours($inUse)])->toBe([true, true, false])
        ->and(Xfs::on(Disks::raw($inUse))->losses()[0])->toContain('what was written last may be missing')
        ->and(Xfs::on(Disks::raw($written))->losses())->toBe([]);
    // What says that it was taken off in order is the last word of the log: without it nothing is known to be done.
    $bytes = (string) file_get_contents($written);
    preg_match_all('/\xfe\xed\xba\xbe.{12}(.{8})/s', $bytes, $records, PREG_OFFSET_CAPTURE);
    $places = array_column($records[0], 1);
    $last = $places[array_search(max($all = array_column($records[1], 0)), $all, true)]; // by their places in the log, counted by rounds
    expect(ord($bytes[$last + 512 + 9]))->toBe(0x20);
    $without = $this->scratch->file('without.raw', substr_replace($bytes, "\0", $last + 512 + 9, 1));
    expect($ours($without))->toBeFalse()->and($says($without))->toBeFalse();
});

it('gives a tree as mkfs.xfs put it there', function (array $options): void {
    $random = new Randomizer(new Mt19937(3));
    $expected = [];
    $list = "/stand-in\n0 0\nd--755 0 0\n";
    foreach (['', 'quay', 'logs'] as $folder) {
        $list .= $folder === '' ? '' : "$folder d--750 7 8\n";
        foreach (range(1, $folder === 'logs' ? 400 : 7) as $i) {
            $bytes = $random->getBytes([1, 100, 5000, 300_000][$folder === 'logs' ? 1 : $i % 4]);
            $file = $this->scratch->file("tree/$folder-$i", $bytes);
            $list .= "file-$i ---640 $i 9 $file\n";
            $expected[ltrim("$folder/file-$i", '/')] = [$i, 9, 0640, md5($bytes)];
        }
        $list .= $folder === '' ? '' : "link l--777 0 0 ../file-1\n$\n";
    }
    $image = $this->scratch->at('made.raw');
    (new Process(['truncate', '-s', '320M', $image]))->mustRun();
    $small = ['TEST_DIR' => '1', 'TEST_DEV' => '1', 'QA_CHECK_FS' => '1']; // than people are to have them
    (new Process(['mkfs.xfs', '-q', '-p', $this->scratch->file('list', "$list$\n"), ...$options, $image], null, $small))
        ->setTimeout(null)->mustRun();
    $volume = Xfs::on(Disks::raw($image)) ?? throw new LogicException('no file system');
    $found = $links = [];
    foreach (FixtureVolume::files($volume) as $path => $file) {
        $is = $file->version;
        $content = $is->kind === EntryKind::File ? md5(implode('', [...$volume->content($file)])) : '';
        $is->kind === EntryKind::File && $found[$path] = [$is->uid, $is->gid, $is->mode, $content];
        $is->kind === EntryKind::Symlink && $links[$path] = $is->linkTarget;
    }
    ksort($expected);
    ksort($found);
    expect($found === $expected)->toBeTrue()->and($links)->toEqual(['logs/link' => '../file-1', 'quay/link' => '../file-1']);
})->with([
    'as usual' => [[]],
    'version 4' => [['-m', 'crc=0', '-i', 'size=256']],
    'without kinds in folders' => [['-m', 'crc=0', '-n', 'ftype=0']],
    'large blocks in folders' => [['-n', 'size=16384']],
    'many groups' => [['-d', 'agcount=16', '-l', 'size=12m']],
    'large inodes' => [['-i', 'size=2048']],
]);

it('ends, and says what is wrong, whatever bytes are other ones', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $image = FixtureVolume::unpacked('xfs', $this->scratch);
    $bytes = (string) file_get_contents($image);
    $inodes = [];
    for ($at = 0; ($at = strpos($bytes, 'IN', $at)) !== false && count($inodes) < 60; $at++) {
        $at % 512 === 0 && $inodes[] = $at;
    }
    FixtureVolume::withOddBytes($image, 30, 40, $random, Xfs::on(...), fn (): int => $random->getInt(0, 19) === 0
        ? $random->getInt(4, 230)
        : $inodes[$random->getInt(0, count($inodes) - 1)] + $random->getInt(2, 511));
})->with([1, 2]);
