<?php

declare(strict_types=1);

use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\Metal\Content;
use Kaiseki\Core\Metal\ContentKind;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutProposal;
use Kaiseki\Core\Metal\LayoutReading;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\LayoutWish;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Metal\RecordedDisk;
use Kaiseki\Core\Metal\RecordedPartition;
use Kaiseki\Core\Metal\TargetDisk;
use Kaiseki\Core\Metal\TargetMachine;
use Kaiseki\Core\Metal\UnfitLayout;
use Kaiseki\Core\Metal\XfsOptions;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Scratch;

/*
 * How disks are laid out, and laid out again: sfdisk(8) of util-linux writes the tables that are read, and reads the tables that were
 * planned; dumpe2fs(8) and blkid(8) say what lies on them.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
});

afterEach(fn () => $this->scratch->remove());

/** A blank disk that takes no room. */
function blankDisk(string $path, int $bytes): string
{
    $file = fopen($path, 'w+b');
    ftruncate($file, $bytes);
    fclose($file);

    return $path;
}

function sfdisk(string $disk, string $script): void
{
    (new Process(['sfdisk', '--quiet', '--wipe=always', $disk], null, null, $script))->mustRun();
}

/** @return array<string, mixed> its table as sfdisk has it */
function tableOf(string $disk): array
{
    return json_decode((new Process(['sfdisk', '--json', $disk]))->mustRun()->getOutput(), true)['partitiontable'];
}

/** The same as sfdisk has it, of what we read or planned. */
function asSfdisk(array $partition): array
{
    return ['start' => intdiv($partition['start'], 512), 'size' => intdiv($partition['bytes'], 512), 'type' => $partition['type']] +
        array_filter(['uuid' => $partition['uuid'], 'name' => $partition['name']], fn (string $one): bool => $one !== '');
}

function readDisk(string $path, string $name = 'system'): RecordedDisk
{
    return LayoutReading::ofDisk($name, FileDisk::open($path));
}

function machineWith(TargetDisk ...$disks): TargetMachine
{
    return new TargetMachine('bios', '', '', 1 << 20, array_values($disks), [], []);
}

function aDisk(int $bytes, string $name = 'sda', string $id = '', int $sector = 512): TargetDisk
{
    return new TargetDisk($name, $bytes, $sector, "SN-$name", '', false, [], $id);
}

/** What sfdisk makes of a plan on a disk of its size. */
function laidOut(string $path, PlannedDisk $plan): array
{
    sfdisk(blankDisk($path, $plan->onto->bytes), $plan->script());

    return tableOf($path);
}

it('reads what sfdisk wrote, with types, numbers of their own, names and flags', function (): void {
    $disk = blankDisk($this->scratch->at('disk'), 3 << 30);
    sfdisk($disk, implode("\n", [
        'label: gpt', 'first-lba: 34', 'start=34, size=2014, type=21686148-6449-6E6F-744E-656564454649',
        'start=2048, size=65536, type=U, name="EFI \'one\'", attrs="RequiredPartition LegacyBIOSBootable GUID:63"',
        'size=1GiB, type=L, name=Wurzelverzeichnis·ä', 'type=S',
    ])."\n");
    $read = readDisk($disk);
    $table = tableOf($disk);
    expect([$read->table, $read->id, $read->startsCode])->toBe(['gpt', $table['id'], false]);
    foreach ($table['partitions'] as $i => $partition) {
        expect(asSfdisk($read->partitions[$i]->toArray()))->toEqual(array_diff_key($partition, ['node' => 1, 'attrs' => 1]));
    }
    expect($read->partitions[1]->flags)->toBe(1 | 4 | (1 << 63));

    sfdisk($disk, implode("\n", [
        'label: dos', 'label-id: 0x0badcafe', '1 : start=2048, size=40960, type=83, bootable', '2 : size=20480, type=82',
        '3 : size=600000, type=5', '5 : size=4096, type=83', '6 : size=8192, type=e',
    ])."\n");
    $read = readDisk($disk);
    expect([$read->table, $read->id, array_map(fn ($one): int => $one->number, $read->partitions)])
        ->toBe(['dos', '0x0badcafe', [1, 2, 5, 6]])
        ->and(array_map(fn ($one): int => $one->flags, $read->partitions))->toBe([128, 0, 0, 0]);
    $table = array_values(array_filter(tableOf($disk)['partitions'], fn (array $one): bool => $one['type'] !== '5'));
    foreach ($table as $i => $partition) {
        expect(asSfdisk($read->partitions[$i]->toArray()))->toEqual(array_diff_key($partition, ['node' => 1, 'bootable' => 1]));
    }
    expect([readDisk(blankDisk($this->scratch->at('none'), 1 << 20))->table])->toBe(['']);
});

it('tells file systems as dumpe2fs and blkid do, and goes by what is in use', function (): void {
    $disk = blankDisk($this->scratch->at('disk'), 200 << 20);
    sfdisk($disk, "label: gpt\nsize=60MiB\nsize=40MiB\nsize=20MiB\nsize=34MiB\n");
    $uuid = '6f1a7c0e-52b8-4c53-9d2f-0b7a1c9be001';
    $at = array_map(fn (array $one): int => $one['start'] * 512, tableOf($disk)['partitions']);
    foreach ([['ext4', 'berths', $at[0], '60M'], ['ext2', '', $at[1], '40M']] as [$type, $label, $from, $size]) {
        (new Process(['mke2fs', '-q', '-t', $type, '-L', $label, '-U', $uuid, '-E', "offset=$from", $disk, $size]))->mustRun();
    }
    $swap = $this->scratch->at('swap');
    (new Process(['mkswap', '-q', '-L', 'rest', '-U', $uuid, blankDisk($swap, 20 << 20)]))->run(fn () => null);
    (new Process(['dd', "if=$swap", "of=$disk", 'bs=1M', 'seek='.($at[2] >> 20), 'conv=notrunc', 'status=none']))->mustRun();
    $contents = array_map(fn (RecordedPartition $one): Content => $one->content, readDisk($disk)->partitions);
    expect(array_map(fn (Content $one): array => [$one->kind, $one->type, $one->uuid, $one->label], $contents))->toBe([
        [ContentKind::Ext, 'ext4', $uuid, 'berths'], [ContentKind::Ext, 'ext2', $uuid, ''],
        [ContentKind::Swap, 'swap', $uuid, 'rest'], [ContentKind::Image, '', '', ''],
    ]);
    foreach ([0, 1] as $i) {
        $told = (new Process(['dumpe2fs', '-h', "$disk?offset={$at[$i]}"]))->mustRun()->getOutput();
        $says = fn (string $what): string => preg_match("/^$what:\\s+(.+)$/m", $told, $m) === 1 ? $m[1] : '';
        $features = explode(' ', $says('Filesystem features'));
        sort($features);
        $ours = $contents[$i]->features;
        sort($ours);
        expect($ours)->toBe($features)
            ->and($contents[$i]->block)->toBe((int) $says('Block size'))
            ->and($contents[$i]->inode)->toBe((int) $says('Inode size'))
            ->and($contents[$i]->used)->toBe(((int) $says('Block count') - (int) $says('Free blocks')) * (int) $says('Block size'))
            ->and($contents[$i]->inodes)->toBe((int) $says('Inode count') - (int) $says('Free inodes'));
    }
});

it('keeps all as it was where the disk is the same, and says by how much it lacks where it is a sector too small', function (): void {
    $disk = blankDisk($this->scratch->at('disk'), 300 << 20);
    sfdisk($disk, "label: gpt\nstart=2048, size=65536, type=U\nstart=70000, size=204800\nstart=290000\n");
    $was = readDisk($disk);
    $plan = LayoutProposal::of(new LayoutRecord([$was]), machineWith(aDisk($was->bytes)));
    $table = tableOf($disk);
    expect($plan->misfits)->toBe([])->and(laidOut($this->scratch->at('new'), $plan->disks[0])['partitions'])->toEqual(
        array_map(
            fn (array $one): array => ['node' => str_replace($disk, $this->scratch->at('new'), $one['node'])] + $one,
            $table['partitions'],
        ),
    );
    // Rooms between partitions are given up before anything else.
    $closer = LayoutProposal::of(new LayoutRecord([$was]), machineWith(aDisk($was->bytes - (2 << 20))));
    expect($closer->misfits)->toBe([])->and($closer->disks[0]->partitions[1]->start)->toBe(33 << 20);
    sfdisk($disk, "label: gpt\nstart=2048, size=65536, type=U\nsize=204800\nsize=".((300 << 11) - 33 - (133 << 11))."\n");
    $was = readDisk($disk);
    expect(LayoutProposal::of(new LayoutRecord([$was]), machineWith(aDisk($was->bytes - 512)))->misfits)
        ->toBe(['system does not fit onto sda: it lacks 512 bytes.']);
});

it('tells XFS as xfs_db and blkid do, and makes it anew as it was', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $choose = fn (string ...$words): string => $words[$random->getInt(0, count($words) - 1)];
    $isNew = $random->getInt(0, 3) > 0;
    $version = $isNew
        ? ['-m', "crc=1,finobt={$choose('0', '1')},reflink={$choose('0', '1')},bigtime={$choose('0', '1')},rmapbt={$choose('0', '1')}",
            '-i', "size={$choose('512', '1024')},sparse={$choose('0', '1')}"]
        : ['-m', 'crc=0,finobt=0', '-n', "ftype={$choose('0', '1')}", '-i', "size={$choose('256', '512')}"];
    $label = $choose('', 'pier nine', "a'b;\$(c)");
    $made = fn (string $disk, array $how): string => (new Process(['mkfs.xfs', '-q', '-f', ...$how, $disk]))->mustRun()->getErrorOutput();
    $disk = blankDisk($this->scratch->at('xfs'), 330 << 20);
    $made($disk, [...$version, '-b', "size={$choose('1024', '4096')}", '-L', $label, '-d', "agcount={$choose('2', '4', '7')}"]);
    $content = readDisk($disk)->partitions[0]->content;
    $db = fn (string $disk, string $ask): string => (new Process(['xfs_db', '-r', '-c', 'sb 0', '-c', $ask, $disk]))
        ->mustRun()
        ->getOutput();
    $field = fn (string $disk, string $name): string => trim(explode('=', $db($disk, "p $name"), 2)[1], " \n\"");
    $free = (int) $field($disk, 'fdblocks') * (int) $field($disk, 'blocksize');
    expect([$content->kind, $content->uuid, $content->label])->toBe([ContentKind::Xfs, $field($disk, 'uuid'), $label])
        ->and([$content->block, $content->inode])->toBe([(int) $field($disk, 'blocksize'), (int) $field($disk, 'inodesize')])
        ->and($content->used)->toBe((int) $field($disk, 'dblocks') * $content->block - $free)
        ->and($content->inodes)->toBe((int) $field($disk, 'icount') - (int) $field($disk, 'ifree'))
        ->and((new Process(['blkid', '-o', 'value', '-s', 'UUID', $disk]))->mustRun()->getOutput())->toBe("{$content->uuid}\n");

    $again = blankDisk($this->scratch->at('again'), 400 << 20);
    $made($again, [
        '-m', "uuid={$content->uuid}", '-b', "size={$content->block}", '-m', XfsOptions::ofMetadata($content),
        '-i', XfsOptions::ofInodes($content), '-n', XfsOptions::ofNames($content), '-L', $content->label,
    ]);
    // All of its features in words; what stands behind the version depends on the size.
    expect($db($again, 'version'))->toBe($db($disk, 'version'))
        ->and($field($again, 'uuid'))->toBe($content->uuid)
        ->and(readDisk($again)->partitions[0]->content->features)->toBe($content->features);
})->with(deeper(range(1, 24), 5));

it('brings byte by byte what no XFS is made like any more, or not here', function (array $how, int $mebibytes): void {
    $disk = blankDisk($this->scratch->at('xfs'), $mebibytes << 20);
    // What its own tests set, so that it makes small ones: mkfs.xfs(8) of xfsprogs 5.19 and later refuses them.
    $small = ['TEST_DIR' => '1', 'TEST_DEV' => '1', 'QA_CHECK_FS' => '1'];
    (new Process(['mkfs.xfs', '-q', '-f', ...$how, $disk], null, $small))->mustRun();
    if ($how === []) {
        expect(readDisk($disk)->partitions[0]->content->kind)->toBe(ContentKind::Image);

        return;
    }
    expect(readDisk($disk)->partitions[0]->content->kind)->toBe(ContentKind::Xfs);
    (new Process(['xfs_db', '-x', '-c', 'sb 0', '-c', 'write -d features_incompat 0x4000001', $disk], null, $small))->mustRun();
    $content = readDisk($disk)->partitions[0]->content;
    expect($content->kind)->toBe(ContentKind::Image)->and($content->used)->toBe($mebibytes << 20);
})->with(['too small' => [[], 64], 'with a feature that nobody knows yet' => [['-i', 'size=512'], 320]]);

it('does not make XFS smaller than one may be', function (): void {
    $content = new Content(ContentKind::Xfs, 'XFS', '', '', 10 << 20, 4096, 512, 20, ['crc', 'ftype']);
    $was = new RecordedDisk('data', 900 << 20, 'dos', '0x0badcafe', false, [
        new RecordedPartition(1, 1 << 20, 898 << 20, '83', '', '', 0, $content),
    ]);
    expect(LayoutRecord::ofJson((string) json_encode((new LayoutRecord([$was]))->toArray()))->disks)->toEqual([$was]);
    $fits = LayoutProposal::of(new LayoutRecord([$was]), machineWith(aDisk(302 << 20)));
    expect($fits->misfits)->toBe([])->and($fits->disks[0]->partitions[0]->bytes)->toBeGreaterThanOrEqual(300 << 20);
    expect(LayoutProposal::of(new LayoutRecord([$was]), machineWith(aDisk(300 << 20)))->misfits[0])->toContain('does not fit onto sda');
});

it('lays random disks out on random others, as sfdisk takes it', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $table = $random->getInt(0, 2) === 0 ? 'dos' : 'gpt';
    $at = [1 << 20, 34 * 512, 63 * 512, 2 << 20][$random->getInt(0, 3)];
    $at = $table === 'gpt' ? max($at, 34 * 512) : $at;
    $partitions = [];
    $count = $random->getInt(1, $table === 'dos' ? 4 : 9);
    for ($i = 0; $i < $count; $i++) {
        $bytes = $random->getInt(1, 80_000) * 512;
        $isExt = $random->getInt(0, 1) === 1;
        $used = $isExt ? intdiv($bytes * $random->getInt(1, 100), 100) : $bytes;
        $content = new Content($isExt ? ContentKind::Ext : ContentKind::Image, '', '', '', $used, ...$isExt ? [4096, 256, 12] : []);
        $uuid = $table === 'gpt' ? strtoupper(vsprintf('%s%s-%s-%s-%s-%s%s%s', str_split(bin2hex($random->getBytes(16)), 4))) : '';
        $number = $table === 'dos' && $i === 3 ? 5 : $i + 1;
        $at += $number === 5 && $table === 'dos' ? 1 << 20 : 0;
        $type = $table === 'gpt' ? '0FC63DAF-8483-4772-8E79-3D69D8477DE4' : '83';
        $partitions[] = new RecordedPartition($number, $at, $bytes, $type, $uuid, $uuid === '' ? '' : "p$i", 0, $content);
        $at += $bytes + ($random->getInt(0, 2) === 0 ? $random->getInt(0, 4000) * 512 : 0);
        $at = $random->getInt(0, 3) === 0 ? $at : intdiv($at + (1 << 20) - 1, 1 << 20) << 20;
    }
    $id = $table === 'gpt' ? '11111111-2222-4333-8444-555555555555' : '0x12345678';
    $bytes = $at + 34 * 512;
    $was = new RecordedDisk('system', $bytes, $table, $id, true, $partitions);
    // What is written down is read again as it was.
    expect(LayoutRecord::ofJson((string) json_encode((new LayoutRecord([$was]))->toArray()))->disks)->toEqual([$was]);
    foreach ([$bytes, $bytes + $random->getInt(1, 500_000) * 512, $bytes - $random->getInt(1, intdiv($bytes, 1024)) * 512] as $size) {
        $plan = LayoutProposal::of(new LayoutRecord([$was]), machineWith(aDisk($size)));
        $needs = 0;
        foreach ($partitions as $one) {
            $least = $one->content->kind === ContentKind::Ext
                ? min($one->bytes, (int) ceil(($one->content->used * 1.05 + (8 << 20)) / (1 << 20)) << 20)
                : $one->bytes;
            $needs += (int) ceil($least / (1 << 20)) << 20;
        }
        if ($plan->misfits !== []) {
            // With a mebibyte more for each, and for both ends, it would have had to fit.
            expect($size)->toBeLessThan($bytes)->and($size)->toBeLessThan($needs + (2 * $count + 4 << 20));

            continue;
        }
        $end = 0;
        foreach ($plan->disks[0]->partitions as $i => $one) {
            expect($one->was)->toBe($partitions[$i])
                ->and($one->start)->toBeGreaterThanOrEqual($end)
                ->and($one->bytes)->toBeGreaterThanOrEqual($one->was->content->kind->isFilled() ? $one->needs : $one->was->bytes);
            $end = $one->end();
        }
        $laid = laidOut($this->scratch->at('new'), $plan->disks[0]);
        $got = array_values(array_filter($laid['partitions'], fn (array $one): bool => $one['type'] !== '5'));
        expect(array_map(fn (array $one): array => array_diff_key($one, ['node' => 1]), $got))->toEqual(array_map(
            fn ($one): array => asSfdisk(['start' => $one->start, 'bytes' => $one->bytes] + $one->was->toArray()),
            $plan->disks[0]->partitions,
        ))->and(strtolower($laid['id']))->toBe($id);
    }
})->with(fn (): array => range(1, getenv('KAISEKI_DEEP') ? 200 : 25));

it('finds disks again whatever they are called now, and leaves alone what is not to be brought', function (): void {
    $disk = fn (string $name, string $id, int $mib): RecordedDisk => new RecordedDisk($name, $mib << 20, 'dos', $id, true, [
        new RecordedPartition(1, 1 << 20, 8 << 20, '83', '', '', 128, new Content(ContentKind::Image, used: 8 << 20)),
    ]);
    $record = new LayoutRecord([$disk('system', '0x00000001', 20), $disk('data', '0x00000002', 30)]);
    $onto = fn (TargetMachine $machine, LayoutWish $wish = new LayoutWish): array => array_map(
        fn (PlannedDisk $one): string => "{$one->was->name} {$one->onto->name}",
        LayoutProposal::of($record, $machine, $wish)->disks,
    );
    $machine = machineWith(aDisk(40 << 20, 'sda'), aDisk(40 << 20, 'sdb'));
    expect($onto($machine))->toBe(['system sda', 'data sdb'])
        ->and($onto(machineWith(aDisk(40 << 20, 'sda', '0x00000002'), aDisk(40 << 20, 'sdb'))))->toBe(['system sdb', 'data sda'])
        ->and($onto($machine, new LayoutWish(['data' => 'sda'])))->toBe(['system sdb', 'data sda'])
        ->and($onto($machine, new LayoutWish(without: ['data'])))->toBe(['system sda']);
    $plan = fn (TargetMachine $machine, LayoutWish $wish): LayoutPlan => LayoutProposal::of($record, $machine, $wish);
    $misfits = fn (TargetMachine $machine, LayoutWish $wish = new LayoutWish): array => $plan($machine, $wish)->misfits;
    expect($misfits(machineWith(aDisk(40 << 20))))->toHaveCount(1)
        ->and($misfits($machine, new LayoutWish(['data' => 'sdz'])))->toBe(['The machine has no disk "sdz".'])
        ->and($misfits($machine, new LayoutWish(['else' => 'sda'])))->toBe(['The set has no disk "else".'])
        ->and($misfits($machine, new LayoutWish(without: ['system', 'data'])))->toHaveCount(1)
        ->and($misfits($machine, new LayoutWish(sizes: ['data.7' => 5])))->toBe(['data has no partition 7.'])
        ->and($misfits($machine, new LayoutWish(sizes: ['data.1' => 1 << 20])))
        ->toContain('Partition 1 of data needs at least 8,388,608 bytes.')
        ->and($misfits(machineWith(aDisk(40 << 20, 'sda', '', 4096), aDisk(40 << 20, 'sdb'))))->toHaveCount(1);
});

it('says what would not start', function (): void {
    $plain = new RecordedDisk('system', 40 << 20, 'gpt', '11111111-2222-4333-8444-555555555555', false, [
        new RecordedPartition(
            1, 1 << 20, 8 << 20, '0FC63DAF-8483-4772-8E79-3D69D8477DE4', '11111111-2222-4333-8444-555555555551', '', 0,
            new Content(ContentKind::Image, used: 8 << 20),
        ),
    ]);
    $cautions = fn (string $firmware): array => LayoutProposal::of(
        new LayoutRecord([$plain]),
        new TargetMachine($firmware, '', '', 0, [aDisk(50 << 20)], [], []),
    )->cautions;
    expect($cautions('bios'))->toHaveCount(1)->and($cautions('uefi'))->toHaveCount(1)
        ->and($cautions('uefi')[0])->toContain('EFI system partition');
});

it('takes no record that cannot be', function (array $change, string $because): void {
    $record = [
        'format' => 'kaiseki.layout', 'version' => 1, 'disks' => [[
            'name' => 'system', 'bytes' => 40 << 20, 'table' => 'dos', 'id' => '0x00000001', 'partitions' => [
                ['number' => 1, 'start' => 1 << 20, 'bytes' => 8 << 20, 'type' => '83', 'content' => ['kind' => 'image']],
            ],
        ]],
    ];
    expect(LayoutRecord::ofJson((string) json_encode($record))->disk('system')?->bytes)->toBe(40 << 20);
    $changed = (string) json_encode(array_replace_recursive($record, $change));
    expect(fn () => LayoutRecord::ofJson($changed))->toThrow(UnfitLayout::class, $because);
})->with([
    'another format' => [['format' => 'x'], 'format'],
    'a newer version' => [['version' => 2], 'version'],
    'a name that is a command' => [['disks' => [['name' => '$(reboot)']]], 'disks.0.name'],
    'a name with a way out' => [['disks' => [['name' => '../etc']]], 'disks.0.name'],
    'more than a disk can have' => [['disks' => [['bytes' => 1 << 61]]], 'disks.0.bytes'],
    'bytes below nothing' => [['disks' => [['bytes' => -1]]], 'disks.0.bytes'],
    'a partition behind the end' => [['disks' => [['partitions' => [['start' => 39 << 20]]]]], 'behind the end'],
    'a number that is a text' => [['disks' => [['partitions' => [['number' => '1']]]]], 'partitions.0.number'],
    'a type with an argument' => [['disks' => [['partitions' => [['type' => "83\nuuid=1"]]]]], 'partitions.0.type'],
    'a name with a line end' => [['disks' => [['partitions' => [['name' => "a\nb"]]]]], 'partitions.0.name'],
    'a kind that is none' => [['disks' => [['partitions' => [['content' => ['kind' => 'x']]]]]], 'content.kind'],
    'two over each other' => [['disks' => [['partitions' => [1 => [
        'number' => 2, 'start' => 2 << 20, 'bytes' => 1 << 20, 'type' => '83', 'content' => ['kind' => 'image'],
    ]]]]], 'lies over another'],
    'a block that is no power of two' => [['disks' => [['partitions' => [['content' => [
        'kind' => 'ext', 'block' => 3000, 'inode' => 256,
    ]]]]]], 'block'],
    'a feature with an option' => [['disks' => [['partitions' => [['content' => [
        'kind' => 'ext', 'block' => 4096, 'inode' => 256, 'features' => ['x -F'],
    ]]]]]], 'features'],
]);

it('takes no machine that cannot be', function (string $json): void {
    expect(fn () => TargetMachine::ofJson($json))->toThrow(UnfitLayout::class);
})->with([
    'no JSON' => ['{'],
    'no firmware' => ['{"disks":[]}'],
    'a disk that is a path' => ['{"firmware":"bios","disks":[{"name":"../sda","bytes":1,"sector":512}]}'],
    'sectors that are none' => ['{"firmware":"bios","disks":[{"name":"sda","bytes":1,"sector":513}]}'],
    'two of one name' => ['{"firmware":"bios","disks":[{"name":"sda","bytes":1,"sector":512},{"name":"sda","bytes":1,"sector":512}]}'],
    'a card that is none' => ['{"firmware":"bios","cards":["x"]}'],
]);
