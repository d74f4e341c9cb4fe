<?php

declare(strict_types=1);

use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\Metal\AttributeDump;
use Kaiseki\Core\Metal\ContentKind;
use Kaiseki\Core\Metal\LayoutReading;
use Kaiseki\Core\Metal\MachineRecord;
use Kaiseki\Core\Metal\PieceDisk;
use Kaiseki\Core\Metal\RecordedPartition;
use Kaiseki\Core\Metal\RecordedVolume;
use Kaiseki\Core\Metal\UnfitLayout;
use Kaiseki\Core\Volume\LogicalVolume;
use Kaiseki\Core\Volume\LogicalVolumes;
use Kaiseki\Core\Volume\PartitionTable;
use Kaiseki\Core\Volume\PhysicalVolume;
use Kaiseki\Core\Volume\PosixAccessList;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Scratch;

/*
 * What an agent writes down of its machine: the first bytes of disks and volumes, cut out as resources/agent/agent.sh does, must say the
 * same as the whole disks do; sfdisk(8) and mke2fs(8) make those.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
    /** A disk by a script of sfdisk, with file systems by the number of their partitions. */
    $this->disk = function (string $name, int $bytes, string $script, array $made): string {
        $disk = $this->scratch->at($name);
        (new Process(['truncate', '-s', (string) $bytes, $disk]))->mustRun();
        $script === '' || (new Process(['sfdisk', '--quiet', $disk], null, null, $script))->mustRun();
        foreach ($made as [$sector, $sectors, $command]) {
            $part = $this->scratch->at('part');
            (new Process(['truncate', '-s', (string) ($sectors * 512), $part]))->mustRun();
            (new Process([...$command, $part]))->mustRun();
            (new Process(['dd', "if=$part", "of=$disk", 'bs=512', "seek=$sector", 'conv=notrunc', 'status=none']))->mustRun();
            unlink($part);
        }

        return $disk;
    };
    /** As the agent cuts it: name => bytes. */
    $this->cut = function (string $name, string $disk, array $tables = []): array {
        $bytes = fn (int $from, int $length): string => (string) file_get_contents($disk, false, null, $from, $length);
        $size = (int) filesize($disk);
        $pieces = ["$name.begin" => $bytes(0, 1 << 20), "$name.end" => $bytes($size - 65_536, 65_536)];
        foreach ($tables as $sector) {
            $pieces["$name.table.$sector"] = $bytes(512 * $sector, 512);
        }
        foreach (LayoutReading::ofDisk($name, FileDisk::open($disk))->partitions as $one) {
            $pieces[MachineRecord::key($name, $one->number).'.head'] = $bytes($one->start, min(65_536, $one->bytes));
        }

        return $pieces;
    };
    $this->read = fn (string $list, array $pieces): MachineRecord => MachineRecord::read(
        fn (string $name): ?string => $name === MachineRecord::LIST ? "kaiseki-machine 1\n$list" : $pieces[$name] ?? null,
    );
});

afterEach(fn () => $this->scratch->remove());

it('says of disks what the whole disks say, by their first bytes', function (): void {
    $system = ($this->disk)('sda', 120 << 20, implode("\n", [
        'label: gpt', 'start=2048, size=40960, type=U, name="EFI ; $(reboot)"', 'start=43008, size=20480, type=S', 'start=63488, name=root',
    ])."\n", [[63_488, 180_000, ['mke2fs', '-q', '-t', 'ext4', '-L', 'root']], [43_008, 20_480, ['mkswap', '-q', '-L', 'rest']],
        [2048, 40_960, ['mkfs.fat']]]);
    $data = ($this->disk)('sdb', 40 << 20, '', [[0, 81_920, ['mke2fs', '-q', '-t', 'ext3']]]);
    $list = "firmware uefi\nkernel 6.1.0\n".
        'disk sdb '.(40 << 20)." 512 B\nvolume sdb files 1024,40000,30000,10000,9989 /srv/database\\040two\n".
        'disk sda '.(120 << 20)." 512 A\nvolume sda.1 image\nvolume sda.2 swap\nvolume sda.3 files 4096,22000,12000,22528,22000 /\n";
    $record = ($this->read)($list, ($this->cut)('sda', $system) + ($this->cut)('sdb', $data));
    $whole = [LayoutReading::ofDisk('sda', FileDisk::open($system)), LayoutReading::ofDisk('sdb', FileDisk::open($data))];
    $plain = function (array $disk): array {
        foreach ($disk['partitions'] as &$one) {
            unset($one['content']['used'], $one['content']['inodes']);
        }

        return $disk;
    };
    expect(array_map($plain, $record->layout->toArray()['disks']))
        ->toBe(array_map(fn ($disk): array => $plain($disk->toArray()), $whole))
        ->and($record->layout->firmware)->toBe('uefi')
        ->and($record->layout->disks[0]->partitions[2]->content->used)->toBe(10_000 * 4096)
        ->and($record->layout->disks[0]->partitions[2]->content->inodes)->toBe(528)
        ->and($record->files['sda.3']->at)->toBe('')->and($record->files['sdb']->at)->toBe('srv/database two')
        ->and($record->within('sda.3'))->toBe(['srv/database two'])->and($record->within('sdb'))->toBe([])
        ->and($record->cautions)->toBe([])
        ->and(MachineRecord::kept(json_decode((string) json_encode($record->toArray()), true)))->toEqual($record);
});

it('fills XFS that was mounted with its files, and leaves one that was not', function (): void {
    $disk = ($this->disk)('sda', 720 << 20, "label: gpt\nstart=2048, size=655360\nstart=657408, size=655360\n", [
        [2048, 655_360, ['mkfs.xfs', '-q', '-L', 'root']], [657_408, 655_360, ['mkfs.xfs', '-q', '-L', 'spare']],
    ]);
    $list = 'disk sda '.(720 << 20)." 512 A\nvolume sda.1 files 4096,70000,30000,160000,157000 /\n".
        "volume sda.2 left it_is_none_of_ext,_and_too_large_for_an_image\n";
    $record = ($this->read)($list, ($this->cut)('sda', $disk));
    $contents = array_map(fn (RecordedPartition $one) => $one->content, $record->layout->disks[0]->partitions);
    expect([$contents[0]->kind, $contents[0]->type, $contents[0]->label, $contents[0]->used, $contents[0]->inodes])
        ->toBe([ContentKind::Xfs, 'XFS', 'root', 40_000 * 4096, 3000])
        ->and($contents[1]->kind)->toBe(ContentKind::Blank)->and($record->files['sda.1']->at)->toBe('')
        ->and(MachineRecord::kept(json_decode((string) json_encode($record->toArray()), true)))->toEqual($record);
});

it('knows logical partitions by the tables that name them', function (): void {
    $disk = ($this->disk)('hda', 60 << 20, "label: dos\nstart=2048, size=20480, type=83, bootable\nstart=22528, type=5\n".
        "start=24576, size=20480, type=83\nstart=47104, size=20480, type=82\nstart=69632, type=83\n", [
            [24_576, 20_480, ['mke2fs', '-q', '-t', 'ext2']],
        ]);
    // Where sfdisk put the tables: before each logical partition.
    $tables = [22_528, 45_056, 67_584];
    $list = 'disk hda '.(60 << 20)." 512\n".implode('', array_map(fn (int $one): string => "table hda $one\n", $tables)).
        "volume hda.1 image\nvolume hda.5 files 1024,9000,1000,2000,1000 /\nvolume hda.6 image\nvolume hda.7 left it_is_large\n";
    $record = ($this->read)($list, ($this->cut)('hda', $disk, $tables));
    $place = fn (RecordedPartition $one): array => [$one->number, $one->start, $one->bytes];
    $places = fn (array $partitions): array => array_map($place, $partitions);
    $said = json_decode((new Process(['sfdisk', '--json', $disk]))->mustRun()->getOutput(), true)['partitiontable']['partitions'];
    $said = array_values(array_filter($said, fn (array $one): bool => $one['type'] !== '5'));
    expect($places($record->layout->disks[0]->partitions))
        ->toBe(array_map(fn (array $one): array => [(int) substr($one['node'], -1), $one['start'] * 512, $one['size'] * 512], $said))
        ->and($record->layout->disks[0]->partitions[3]->content->kind)->toBe(ContentKind::Blank)
        ->and($record->cautions)->toBe(['hda.7 comes empty: nothing of it is in the set, for it is large.']);
});

it('leaves blank what nobody wrote down how to make, and says so', function (): void {
    $script = "label: gpt\nstart=2048, size=20480\nstart=22528\n";
    $disk = ($this->disk)('sda', 40 << 20, $script, [[2048, 20_480, ['mke2fs', '-q', '-t', 'ext4']]]);
    $record = ($this->read)('disk sda '.(40 << 20)." 512 A\nunsupported dm-0 LVM-abc\n", ($this->cut)('sda', $disk));
    expect(array_map(fn (RecordedPartition $one): ContentKind => $one->content->kind, $record->layout->disks[0]->partitions))
        ->toBe([ContentKind::Blank, ContentKind::Blank])
        ->and($record->cautions)->toHaveCount(3)->and($record->cautions[0])->toContain('dm-0, which is LVM-abc');
});

it('refuses a record that was edited into something that no machine is', function (string $list): void {
    expect(fn () => ($this->read)($list, []))->toThrow(UnfitLayout::class);
})->with([
    'no disk' => ["firmware bios\n"],
    'a disk without a size' => ["disk sda 0 512 A\n"],
    'a name that leads elsewhere' => ["disk ../sda 1000000 512 A\n"],
    'two of one name' => ["disk sda 1000000 512 A\ndisk sda 1000000 512 A\n"],
    'more bytes than there are' => ["disk sda 99999999999999999999 512 A\n"],
    'a volume that leads elsewhere' => ["disk sda 1000000 512 A\nvolume ../1 image\n"],
    'a mount that leads elsewhere' => ["disk sda 1000000 512 A\nvolume sda files 1,1,1,1,1 /../etc\n"],
    'a use that is none' => ["disk sda 1000000 512 A\nvolume sda files 1,1 /\n"],
    'a way that is none' => ["disk sda 1000000 512 A\nvolume sda shell reboot\n"],
]);

it('refuses what is no record', function (): void {
    expect(fn () => MachineRecord::read(fn (): ?string => null))->toThrow(UnfitLayout::class)
        ->and(fn () => MachineRecord::read(fn (): string => "kaiseki-machine 2\n"))->toThrow(UnfitLayout::class);
});

it('gives of a disk in pieces what each byte is', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $plain = str_repeat("\0", 2000);
    $pieces = [];
    for ($at = 0; ($at += $random->getInt(1, 300)) < 1900; $at += strlen($piece)) {
        $piece = $random->getBytes($random->getInt(1, 90));
        $pieces[$at] = $piece;
        $plain = substr_replace($plain, $piece, $at, strlen($piece));
    }
    $plain = substr($plain, 0, 2000);
    $disk = new PieceDisk(2000, $pieces);
    for ($i = 0; $i < 300; $i++) {
        [$from, $length] = [$random->getInt(0, 2100), $random->getInt(0, 500)];
        expect($disk->read($from, $length))->toBe(substr($plain, $from, $length));
    }
})->with([1, 2, 3]);

it('reads the attributes that getfattr dumps, access lists as setfacl takes them', function (): void {
    $folder = $this->scratch->folder('files');
    touch("$folder/odd \\ name\n");
    mkdir("$folder/shared");
    (new Process(['setfattr', '-n', 'user.berth', '-v', "nine\nfeet", "$folder/odd \\ name\n"]))->mustRun();
    (new Process(['setfacl', '-m', 'u:70001:rw,g:70002:r,d:u:70001:rwx', "$folder/shared"]))->mustRun();
    $dumping = new Process(['getfattr', '--no-dereference', '--dump', '--match=-', '--encoding=hex', '-R', '.'], $folder);
    $dump = $dumping->mustRun()->getOutput();
    $file = fopen('php://memory', 'w+b');
    fwrite($file, "$dump\n# file: of XFS\ntrusted.SGI_ACL_FILE=0x00\nuser.a=0x41\n\n");
    $read = iterator_to_array(AttributeDump::read($file));
    expect($read["odd \\ name\n"])->toBe(['SCHILY.xattr.user.berth' => "nine\nfeet"])
        ->and($read['of XFS'])->toBe(['SCHILY.xattr.user.a' => 'A']) // its list stands there twice, once as XFS has it
        ->and(array_keys($read['shared']))->toBe(['SCHILY.acl.access', 'SCHILY.acl.default']);
    // What it says is what makes the same again.
    mkdir("$folder/again");
    (new Process(['setfacl', '--set', $read['shared']['SCHILY.acl.access'], "$folder/again"]))->mustRun();
    (new Process(['setfacl', '-d', '--set', $read['shared']['SCHILY.acl.default'], "$folder/again"]))->mustRun();
    $of = fn (string $name): string => (new Process(['getfacl', '--omit-header', '--numeric', $name], $folder))->mustRun()->getOutput();
    expect($of('again'))->toBe($of('shared'))->and(PosixAccessList::text("\3\0\0\0"))->toBeNull();
});

it('knows a volume group by what stands at the beginning of its parts, and its volumes by theirs', function (): void {
    $disks = $pieces = [];
    $parts = [];
    foreach (['system', 'data'] as $name) {
        $raw = (string) gzdecode((string) file_get_contents(dirname(__DIR__, 2)."/Fixtures/lvm/$name.raw.gz"));
        $disks[$name] = $this->scratch->file("$name.raw", $raw);
        $pieces += ($this->cut)($name, $disks[$name]);
        foreach (PartitionTable::of(FileDisk::open($disks[$name])) as $partition) {
            if (PhysicalVolume::on($partition) !== null) {
                $pieces[MachineRecord::key($name, $partition->number).'.head'] = $partition->read(0, 1 << 20);
                $parts[] = PhysicalVolume::on($partition);
            }
        }
    }
    foreach (LogicalVolumes::of($parts) as $name => $volume) {
        $pieces["$name.head"] = $volume instanceof LogicalVolume ? $volume->read(0, 65_536) : '';
    }
    $list = 'disk system '.filesize($disks['system'])." 512 A\ndisk data ".filesize($disks['data'])." 512 B\n".
        "volume system.1 image /boot/efi\nvolume system.2 group\nvolume data group\nvolume harbour-root files 1024,9000,2000,900,800 /\n".
        "volume harbour-plans left it_is_not_mounted\nvolume harbour-strips files 1024,4000,2000,900,800 /srv/strips\n";
    $record = ($this->read)($list, $pieces);
    [$group] = $record->layout->groups;
    expect(array_map(fn (RecordedVolume $one): array => [$one->name, $one->content->kind, $one->content->used], $group->volumes))->toBe([
        ['root', ContentKind::Ext, 7000 << 10], ['plans', ContentKind::Blank, 0], ['strips', ContentKind::Ext, 2000 << 10],
    ])->and($group->parts)->toBe(['system.2', 'data'])
        ->and($record->cautions)->toBe(['harbour-plans comes empty: nothing of it is in the set, for it is not mounted.'])
        ->and($record->within('harbour-root'))->toEqualCanonicalizing(['srv/strips', 'boot/efi'])
        ->and($record->layout->disksOf('harbour-root'))->toBe(['system', 'data'])
        ->and(MachineRecord::kept(json_decode((string) json_encode($record->toArray()), true)))->toEqual($record);
    // Without one of its parts nobody can say where its volumes lay: what is on them has no place any more.
    unset($pieces['data.head']);
    $without = ($this->read)($list, $pieces);
    expect($without->layout->groups)->toBe([])
        ->and($without->layout->disk('system')?->partitions[1]->content->kind)->toBe(ContentKind::Blank)
        ->and(implode(' ', $without->cautions))->toContain('system.2 comes empty');
});
