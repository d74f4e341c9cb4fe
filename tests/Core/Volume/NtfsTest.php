<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Volume\AccessList;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\Lznt1;
use Kaiseki\Core\Volume\Ntfs;
use Kaiseki\Core\Volume\UnreadableVolume;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Disks;
use Tests\Support\FixtureVolume;
use Tests\Support\NtfsVolume;
use Tests\Support\Scratch;

/*
 * Oracles: libntfs-3g (ntfscat, ntfscp, ntfsinfo, ntfssecaudit) and wimlib, which write volumes without mounting them, and read them again.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->open = fn (NtfsVolume $volume): Ntfs => Ntfs::on(Disks::raw($volume->image)) ?? throw new LogicException('no file system');
});
afterEach(fn () => $this->scratch->remove());

/** @return array<array-key, array{string, int, int, string}> path => kind, size, seconds of its time, and digest or target */
function ntfsTree(Ntfs $volume, ?FoundFile $folder = null, string $path = ''): array
{
    $found = [];
    foreach ($volume->children($folder ?? $volume->root()) as $name => $file) {
        $at = EntryPath::join($path, (string) $name);
        $version = $file->version;
        $what = $version->kind === EntryKind::File ? md5(implode('', [...$volume->content($file)])) : $version->linkTarget;
        $found[$at] = [$version->kind->value, $version->size, intdiv($version->mtime, 1_000_000_000), $what];
        $found += $version->kind === EntryKind::Folder ? ntfsTree($volume, $file, $at) : [];
    }
    ksort($found);

    return $found;
}

/** @return array<array-key, array{string, int, int, string}> the same of a folder of this machine */
function treeHere(string $folder): array
{
    $found = [];
    foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($folder, FilesystemIterator::SKIP_DOTS), 1) as $path => $file) {
        $at = substr((string) $path, strlen($folder) + 1);
        $found[$at] = match (true) {
            $file->isLink() => [EntryKind::Symlink->value, 0, lstat((string) $path)['mtime'], (string) readlink((string) $path)],
            $file->isDir() => [EntryKind::Folder->value, 0, $file->getMTime(), ''],
            default => [EntryKind::File->value, $file->getSize(), $file->getMTime(), (string) md5_file((string) $path)],
        };
    }
    ksort($found);

    return $found;
}

/** Names of several alphabets, empty files, files that stand in their record, and large ones; a folder of many names. */
function someTree(Scratch $scratch, int $seed): string
{
    $random = new Randomizer(new Mt19937($seed));
    foreach (range(1, 60) as $i) {
        $name = ['tide', 'Ångström', '潮汐', 'a b.c', 'ferry'][$i % 5]." $i";
        $bytes = [0, 1, 600, 700, 5000, 70_000][$random->getInt(0, 5)];
        $file = $scratch->file('tree/'.['', 'quay/', 'quay/north/'][$i % 3].$name, $bytes === 0 ? '' : $random->getBytes($bytes));
        touch($file, $random->getInt(-2_000_000_000, 4_000_000_000));
    }
    foreach (range(1, 900) as $i) {
        $scratch->file("tree/logs/log-$i", "line $i\n");
    }
    $scratch->file('tree/quay/large', $random->getBytes(3 << 20));
    link($scratch->at('tree/quay/large'), $scratch->at('tree/logs/the same'));
    symlink('../quay/large', $scratch->at('tree/logs/link'));

    return $scratch->at('tree');
}

it('gives a tree as it stood on the disk', function (int $seed, array $options): void {
    $tree = someTree($this->scratch, $seed);
    $volume = ($this->open)(new NtfsVolume($this->scratch, $tree, 48 << 20, ...$options));
    $found = ntfsTree($volume);
    expect($found === treeHere($tree))->toBeTrue()
        ->and([$volume->type(), $volume->label(), count($volume->losses())])->toBe(['NTFS', 'Harbour', 1]);
    $logs = $volume->child($volume->root(), 'logs') ?? throw new LogicException;
    $quay = $volume->child($volume->root(), 'quay') ?? throw new LogicException;
    expect($volume->child($logs, 'the same')?->version->linkGroup)->toBe($volume->child($quay, 'large')?->version->linkGroup)
        ->not->toBe(0)
        ->and($volume->child($logs, 'log-1')?->version->linkGroup)->toBe(0)
        ->and($volume->child($logs, 'LOG-1'))->toBeNull();
})->with([
    'as usual' => [1, []],
    'small clusters' => [2, ['-c', '512']],
    'large clusters' => [3, ['-c', '65536']],
    'large sectors' => [4, ['-s', '4096', '-p', '0', '-H', '0', '-S', '0']],
]);

it('gives what wimlib reads of it, and ntfscat, when it is full of pieces', function (): void {
    $volume = new NtfsVolume($this->scratch, someTree($this->scratch, 5), 16 << 20, '-c', '512');
    // What is freed lies all over it; what comes then lies in pieces, of which there are more than a record can name.
    $random = new Randomizer(new Mt19937(6));
    foreach (range(1, 40) as $i) {
        $volume->put($this->scratch->file('one', $random->getBytes(600 + 3000 * ($i % 5))), "/piece-$i");
    }
    foreach (range(1, 40, 2) as $i) {
        $volume->put($this->scratch->file('one', 'short'), "/piece-$i");
    }
    $volume->put($this->scratch->file('wide', $random->getBytes(4 << 20)), '/wide');
    $opened = ($this->open)($volume);
    $tree = ntfsTree($opened);
    expect($tree === treeHere($volume->extracted()))->toBeTrue()
        ->and($tree['wide'][3])->toBe(md5($volume->content('/wide')))->toBe(md5_file($this->scratch->at('wide')));
});

it('gives files that have hundreds of names, whose attributes stand in several records', function (): void {
    $first = $this->scratch->file('tree/first', str_repeat('high water ', 2000));
    foreach (range(1, 300) as $i) {
        link($first, $this->scratch->at("tree/another name that is long, number $i"));
    }
    $volume = ($this->open)(new NtfsVolume($this->scratch, $this->scratch->at('tree')));
    expect(ntfsTree($volume) === treeHere($this->scratch->at('tree')))->toBeTrue();
});

it('unpacks what is compressed', function (): void {
    $volume = new NtfsVolume($this->scratch, null, 48 << 20, '-C');
    $random = new Randomizer(new Mt19937(7));
    $contents = [
        'text' => implode('', array_map(fn (int $i): string => "berth $i is taken to {$random->getInt(0, 23)} o'clock\n", range(1, 9000))),
        'noise' => $random->getBytes(300_000),
        'zeros' => str_repeat("\0", 500_000),
        'mixed' => str_repeat("\0", 200_000).$random->getBytes(100_000).str_repeat('ab', 90_000).'end',
    ];
    foreach ($contents as $name => $content) {
        $volume->put($this->scratch->file("out/$name", $content), "/$name");
    }
    expect(NtfsVolume::ran('ntfsinfo', '-f', '-F', '/text', $volume->image))->toContain('COMPRESSED');
    $tree = ntfsTree(($this->open)($volume));
    foreach ($contents as $name => $content) {
        expect([$name, $tree[$name][3]])->toBe([$name, md5($content)])->and(md5($volume->content("/$name")))->toBe(md5($content));
    }
});

it('unpacks the example of its specification', function (): void {
    // [MS-XCA] 3.3.
    $packed = '38b088462320002047204100 10a24701a045204400084501507900c045200524138805b4024a44ef0358028c091601484500be009e000401189000';
    expect(Lznt1::unpack((string) hex2bin(str_replace(' ', '', $packed)), 142))
        ->toBe('F# F# G A A G F# E D D E F# F# E E F# F# G A A G F# E D D E F# E D D E E F# D E F# G F# D E F# G F# E D E A '.
            "F# F# G A A G F# E D D E F# E D D\0");
});

it('unpacks nothing that is longer than a chunk, or leads before its beginning', function (): void {
    $random = new Randomizer(new Mt19937(11));
    foreach (range(1, 3000) as $i) {
        $chunk = $random->getBytes($random->getInt(1, 200));
        try {
            $bytes = Lznt1::unpack(pack('v', 0xB000 | strlen($chunk) - 1).$chunk, 65_536);
            expect(strlen($bytes))->toBe(4096);
        } catch (UnreadableVolume $wrong) {
            expect($wrong->getMessage())->toContain('cannot be unpacked');
        }
    }
});

it('gives streams beside a content, and who may do what, as attributes', function (): void {
    $volume = new NtfsVolume($this->scratch, someTree($this->scratch, 8));
    $volume->put($this->scratch->file('zone', "[ZoneTransfer]\r\nZoneId=3\r\n"), '/quay/large', '-N', 'Zone.Identifier');
    $opened = ($this->open)($volume);
    $quay = $opened->child($opened->root(), 'quay') ?? throw new LogicException;
    $large = $opened->child($quay, 'large') ?? throw new LogicException;
    expect($large->extended['SCHILY.xattr.user.Zone.Identifier'])->toBe("[ZoneTransfer]\r\nZoneId=3\r\n");
    $audited = NtfsVolume::ran('ntfssecaudit', '-v', $volume->image, '/quay/large');
    preg_match('/Windows owner (\S+)\s+Windows group (\S+)/', $audited, $told);
    expect([$large->version->uname, $large->version->gname])->toBe([$told[1], $told[2]])
        ->and($large->extended['SCHILY.xattr.user.sddl'])->toBe("O:$told[1]G:$told[2]D:(A;OICI;FA;;;S-1-1-0)");
});

it('puts a list of who may do what into words as the language for that has them', function (): void {
    // Laid out by hand after [MS-DTYP] 2.4.2.2, 2.4.4.1, 2.4.5 and 2.4.6.
    $sid = fn (int $authority, int ...$parts): string => pack('CC', 1, count($parts)).
        substr(pack('J', $authority), 2).pack('V*', ...$parts);
    $ace = fn (int $type, int $flags, int $mask, string $sid): string => pack('CCvV', $type, $flags, 8 + strlen($sid), $mask).$sid;
    $aces = $ace(1, 0, 0x120116, $sid(5, 21, 7, 8, 9, 1001)).$ace(0, 0x13, 0x1F01FF, $sid(5, 18)).$ace(0, 0, 0x1301BF, $sid(5, 32, 545));
    $list = pack('Cxvvx2', 2, 8 + strlen($aces), 3).$aces;
    [$owner, $group] = [$sid(5, 32, 544), $sid(5, 21, 7, 8, 9, 513)];
    $head = pack('CxvVVVV', 1, 0x9404, 20, 20 + strlen($owner), 0, 20 + strlen($owner) + strlen($group));
    $said = AccessList::of($head.$owner.$group.$list);
    expect($said?->sddl)->toBe('O:S-1-5-32-544G:S-1-5-21-7-8-9-513D:PAI(D;;FW;;;S-1-5-21-7-8-9-1001)(A;OICIID;FA;;;S-1-5-18)'.
        '(A;;0x1301bf;;;S-1-5-32-545)')
        ->and(AccessList::of('short'))->toBeNull();
});

it('tells that it was in use', function (): void {
    $volume = new NtfsVolume($this->scratch, someTree($this->scratch, 9));
    $bytes = (string) file_get_contents($volume->image);
    $page = strpos($bytes, 'RSTR');
    if ($page === false) {
        // An empty log is one that was put down in order; one page that says that somebody uses it is not.
        $page = (int) strpos($bytes, str_repeat("\xff", 1 << 20));
        $bytes = substr_replace($bytes, 'RSTR'.str_repeat("\0", 20).pack('v', 48), $page, 26);
    }
    $area = unpack('v', $bytes, $page + 24)[1] ?? 0;
    file_put_contents($volume->image, substr_replace($bytes, pack('vv', 0, 0), $page + $area + 12, 4));
    expect(($this->open)($volume)->losses()[1])->toContain('It was in use');
});

it('ends, and says what is wrong, whatever bytes are other ones', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $image = (new NtfsVolume($this->scratch, someTree($this->scratch, 10), 16 << 20))->image;
    $records = (int) strpos((string) file_get_contents($image), 'FILE0');
    FixtureVolume::withOddBytes($image, 30, 12, $random, Ntfs::on(...), fn (): int => $random->getInt(0, 3) === 0
        ? $random->getInt(11, 72)
        : $records + $random->getInt(0, 60_000));
})->with([1, 2]);
