<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Volume\Ext;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\Partition;
use Kaiseki\Core\Volume\PartitionTable;
use Kaiseki\Core\Volume\UnreadableVolume;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Disks;
use Tests\Support\Scratch;

/*
 * The file system's own tools as the oracle: mke2fs -d of e2fsprogs 1.47 puts a tree into a file system, and it must come out as it stands
 * on the disk; debugfs says the rest.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
});
afterEach(fn () => $this->scratch->remove());

/** @return array<array-key, array{string, int, int, int, int, string, string}> path => kind, mode, owner, group, time, target, content */
function walkVolume(Ext $volume, ?FoundFile $folder = null, string $path = ''): array
{
    $found = [];
    foreach ($volume->children($folder ?? $volume->root()) as $name => $file) {
        $at = EntryPath::join($path, (string) $name);
        if ($at === 'lost+found') {
            continue;
        }
        $version = $file->version;
        $content = '';
        foreach ($volume->content($file) as $bytes) {
            $content .= $bytes;
        }
        $found[$at] = [
            $version->kind->value,
            $version->mode,
            $version->uid,
            $version->gid,
            intdiv($version->mtime, 1_000_000_000),
            $version->linkTarget,
            strlen($content) === $version->size ? md5($content) : 'of another length',
        ];
        $found += $version->kind === EntryKind::Folder ? walkVolume($volume, $file, $at) : [];
    }

    return $found;
}

/** @return array<array-key, array{string, int, int, int, int, string, string}> */
function walkFolder(string $folder, string $path = ''): array
{
    $found = [];
    foreach (array_diff(scandir("$folder/$path") ?: [], ['.', '..']) as $name) {
        $at = EntryPath::join($path, $name);
        $status = lstat("$folder/$at");
        $kind = is_link("$folder/$at") ? 'l' : (is_dir("$folder/$at") ? 'd' : (filetype("$folder/$at") === 'fifo' ? 'p' : 'f'));
        $found[$at] = [
            $kind,
            $status['mode'] & 07777,
            $status['uid'],
            $status['gid'],
            $status['mtime'],
            $kind === 'l' ? (string) readlink("$folder/$at") : '',
            $kind === 'f' ? md5((string) file_get_contents("$folder/$at")) : md5(''),
        ];
        $found += $kind === 'd' ? walkFolder($folder, $at) : [];
    }

    return $found;
}

function growTree(Scratch $scratch, Randomizer $random): string
{
    $tree = $scratch->folder('tree');
    foreach (range(1, 700) as $i) {
        $scratch->file(
            "tree/many/a rather long name number $i",
            $random->getInt(0, 3) === 0 ? '' : $random->getBytes($random->getInt(1, 3000)),
        );
    }
    $scratch->file('tree/large.bin', $random->getBytes(3_000_000));
    $scratch->file("tree/odd/line\nbreak \xff ü", 'odd');
    $scratch->file('tree/odd/zeros', str_repeat("\0", 300_000).'end');
    $sparse = fopen("$tree/odd/sparse", 'wb');
    fseek($sparse, 2_000_000);
    fwrite($sparse, 'behind the hole');
    fclose($sparse);
    symlink('large.bin', "$tree/short link");
    symlink(str_repeat('far/', 60).'away', "$tree/long link");
    posix_mkfifo("$tree/pipe", 0640);
    chmod("$tree/large.bin", 04751);
    touch("$tree/large.bin", 1_000_000_000);
    chown("$tree/odd/sparse", 70_000);
    chgrp("$tree/odd/sparse", 80_000);

    return $tree;
}

it('gives a tree as it stood on the disk', function (array $options): void {
    $tree = growTree($this->scratch, new Randomizer(new Mt19937(3)));
    $image = $this->scratch->at('volume');
    $this->scratch->run('mke2fs', '-q', ...$options, ...['-d', $tree, $image, '24M']);
    $volume = Ext::on(Disks::raw($image)) ?? throw new LogicException('no file system');
    $expected = walkFolder($tree);
    $found = walkVolume($volume);
    ksort($expected);
    expect(array_intersect_key($found, $expected))
        ->toEqual($expected)
        ->and(count($found))
        ->toBe(count(walkFolder($tree)))
        ->and($volume->losses())
        ->toBe([]);
})->with([
    'ext2 of small blocks' => [['-t', 'ext2', '-b', '1024', '-I', '128']],
    'ext3' => [['-t', 'ext3', '-b', '1024']],
    'ext4' => [['-t', 'ext4']],
    'ext4 of small blocks' => [['-t', 'ext4', '-b', '1024', '-O', '64bit,metadata_csum']],
    'ext4 of 32 bits' => [['-t', 'ext4', '-b', '2048', '-O', '^64bit,^metadata_csum,^flex_bg']],
]);

it('gives times beyond 2038, before 1970, and parts of a second', function (): void {
    $image = $this->scratch->at('volume');
    $this->scratch->file('tree/a', 'a');
    $this->scratch->file('tree/b', 'b');
    $this->scratch->run('mke2fs', '-q', '-t', 'ext4', '-I', '256', '-d', $this->scratch->at('tree'), $image, '4M');
    foreach (['a mtime @205032704', 'a mtime_extra '.((123_456_789 << 2) | 1), 'b mtime @4294967286', 'b mtime_extra 0'] as $field) {
        $this->scratch->run('debugfs', '-w', '-R', "set_inode_field $field", $image);
    }
    $volume = Ext::on(Disks::raw($image)) ?? throw new LogicException('no file system');
    $files = iterator_to_array($volume->children($volume->root()));
    expect($files['a']->version->mtime)
        ->toBe(4_500_000_000_123_456_789)
        ->and($files['b']->version->mtime)
        ->toBe(-10_000_000_000);
});

it('plays the journal of a disk that was in use back as e2fsck does', function (string $features): void {
    foreach (range(1, 5) as $i) {
        $this->scratch->file("tree/file$i", str_repeat("old $i\n", 200));
    }
    $image = $this->scratch->at('volume');
    $this->scratch->run('mke2fs', '-q', '-t', 'ext4', '-b', '1024', '-O', $features, '-d', $this->scratch->at('tree'), $image, '8M');
    $debugfs = fn (string $script) => (new Process(['debugfs', '-w', '-f', '-', $image], null, null, $script))->mustRun();
    $blocks = [];
    foreach (range(1, 5) as $i) {
        preg_match_all('/^\d+$/m', str_replace(' ', "\n", $this->scratch->run('debugfs', '-R', "blocks file$i", $image)), $found);
        $blocks[$i] = array_map(intval(...), $found[0]);
    }
    // One block becomes another, one twice, one begins like a block of the journal, one is taken back out of it.
    foreach (['a' => 'new a', 'b' => 'new b', 'c' => 'newer b', 'd' => "\xc0\x3b\x39\x98 new d", 'e' => 'new e'] as $name => $content) {
        $this->scratch->file($name, str_pad($content, 1024, "\n"));
    }
    $put = fn (string $file, int $block): string => "jw -b $block ".$this->scratch->at($file)."\n";
    $debugfs("jo\n{$put('a', $blocks[1][0])}{$put('b', $blocks[2][0])}{$put('e', $blocks[4][0])}".
        "{$put('c', $blocks[2][0])}{$put('d', $blocks[3][0])}jw -r {$blocks[4][0]}\njc\n");
    $this->scratch->run('debugfs', '-w', '-R', 'feature +needs_recovery', $image);
    $ours = walkVolume(Ext::on(Disks::raw($image)) ?? throw new LogicException('no file system'));
    copy($image, "$image.checked");
    (new Process(['e2fsck', '-fy', "$image.checked"]))->run();
    $theirs = walkVolume(Ext::on(Disks::raw("$image.checked")) ?? throw new LogicException('no file system'));
    expect($ours)->toEqual($theirs);
    $first = fn (string $name): string => substr(
        $this->scratch->run('debugfs', '-R', "cat $name", "$image.checked"), 0, 1024,
    );
    expect($first('file1'))->toStartWith('new a')
        ->and($first('file2'))->toStartWith('newer b')
        ->and($first('file3'))->toStartWith("\xc0\x3b\x39\x98 new d")
        ->and($first('file4'))->toStartWith('old 4');
})->with(['64bit,metadata_csum', '^64bit,^metadata_csum', '64bit,^metadata_csum']);

it('gives attributes that people set', function (): void {
    $file = $this->scratch->file('tree/plan', 'x');
    (new Process(['setfattr', '-n', 'user.berth', '-v', 'Pier Nine', $file]))->run();
    $image = $this->scratch->at('volume');
    $this->scratch->run('mke2fs', '-q', '-t', 'ext4', $image, '4M');
    file_put_contents($this->scratch->at('value'), 'Pier Nine');
    foreach (
        [
            "write $file plan",
            'ea_set -f '.$this->scratch->at('value').' plan user.berth',
            'ea_set -f '.$file.' plan user.'.str_repeat('long', 30),
        ] as $command
    ) {
        $this->scratch->run('debugfs', '-w', '-R', $command, $image);
    }
    $volume = Ext::on(Disks::raw($image)) ?? throw new LogicException('no file system');
    $plan = $volume->child($volume->root(), 'plan') ?? throw new LogicException('no plan');
    expect($volume->child($volume->root(), 'plans'))->toBeNull();
    expect($plan->extended)->toEqualCanonicalizing([
        'SCHILY.xattr.user.berth' => 'Pier Nine',
        'SCHILY.xattr.user.'.str_repeat('long', 30) => 'x',
    ]);
});

it('finds the partitions of a disk as sfdisk made them', function (string $script, array $expected): void {
    $image = $this->scratch->file('disk', '');
    $file = fopen($image, 'r+b');
    ftruncate($file, 64 << 20);
    fclose($file);
    (new Process(['sfdisk', '--quiet', $image], null, null, $script))->mustRun();
    $found = PartitionTable::of(Disks::raw($image));
    expect(array_map(fn (Partition $one): array => [$one->number, $one->from, $one->size(), $one->name], $found))->toBe($expected);
    // The copy at the end counts where the first is damaged.
    if (str_contains($script, 'gpt')) {
        $bytes = (string) file_get_contents($image);
        file_put_contents($image, substr_replace($bytes, 'X', 512 + 20, 1));
        expect(count(PartitionTable::of(Disks::raw($image))))->toBe(count($expected));
    }
})->with([
    'a GUID table' => [
        "label: gpt\nstart=2048, size=16384, name=boot\nstart=20480, size=40000, name=\"råot\"\n",
        [[1, 1 << 20, 8 << 20, 'boot'], [2, 10 << 20, 40000 * 512, 'råot']],
    ],
    'an old table, logical ones too' => [
        "label: dos\nstart=2048, size=16384, type=83\nstart=20480, size=80000, type=5\n".
        "start=22528, size=10000, type=83\nstart=40960, size=10000, type=83\n",
        [[1, 1 << 20, 8 << 20, ''], [5, 22528 * 512, 10000 * 512, ''], [6, 40960 * 512, 10000 * 512, '']],
    ],
]);

it('ends, and says what is wrong, whatever bytes are other ones', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $tree = $this->scratch->folder('tree');
    foreach (range(1, 40) as $i) {
        $this->scratch->file("tree/folder/file$i", $random->getBytes(3000));
    }
    symlink(str_repeat('x', 200), "$tree/link");
    $image = $this->scratch->at('volume');
    $this->scratch->run('mke2fs', '-q', '-t', $seed % 2 === 0 ? 'ext4' : 'ext2', '-b', '1024', '-d', $tree, $image, '1M');
    $bytes = (string) file_get_contents($image);
    $told = 0;
    for ($i = 0; $i < 60; $i++) {
        $changed = $bytes;
        for ($n = 0; $n < 20; $n++) {
            $at = $random->getInt(1024, 120_000); // superblock, tables, inodes, folders
            $changed[$at] = chr($random->getInt(0, 255));
        }
        file_put_contents($image, $changed);
        try {
            $volume = Ext::on(Disks::raw($image));
            $queue = $volume === null ? [] : [$volume->root()];
            for ($seen = 0; $queue !== [] && $seen < 500; $seen++) {
                // folders that hold themselves: who walks bounds that
                foreach ($volume->children(array_shift($queue)) as $file) {
                    $queue[] = $file;
                    foreach ($file->version->size < 1 << 24 ? $volume->content($file) : [] as $piece) {
                        expect(strlen($piece))->toBeLessThanOrEqual(1 << 20);
                    }
                }
            }
        } catch (UnreadableVolume|UnreadableImage $wrong) {
            $told++;
            expect($wrong->getMessage())->not->toBe('');
        }
    }
    expect($told)->toBeLessThan(61);
})->with([1, 2, 3, 4]);
