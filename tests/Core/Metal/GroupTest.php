<?php

declare(strict_types=1);

use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\Metal\Content;
use Kaiseki\Core\Metal\ContentKind;
use Kaiseki\Core\Metal\GroupHead;
use Kaiseki\Core\Metal\GroupReading;
use Kaiseki\Core\Metal\ImageSheet;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutProposal;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\LayoutWish;
use Kaiseki\Core\Metal\MetalOrders;
use Kaiseki\Core\Metal\PlannedVolume;
use Kaiseki\Core\Metal\RecordedDisk;
use Kaiseki\Core\Metal\RecordedGroup;
use Kaiseki\Core\Metal\RecordedPartition;
use Kaiseki\Core\Metal\RecordedVolume;
use Kaiseki\Core\Metal\TargetDisk;
use Kaiseki\Core\Metal\TargetMachine;
use Kaiseki\Core\Metal\UnfitLayout;
use Kaiseki\Core\Volume\Ext;
use Kaiseki\Core\Volume\LogicalVolume;
use Kaiseki\Core\Volume\LogicalVolumes;
use Kaiseki\Core\Volume\PartitionTable;
use Kaiseki\Core\Volume\PhysicalVolume;
use Kaiseki\Core\Volume\TreeWalk;
use Kaiseki\Core\Volume\VolumeGroup;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Scratch;

/*
 * Volume groups of LVM made anew: disks that lvm2 of Debian 12 made a group on (tests/Fixtures/lvm/make.sh) are read, laid out on others,
 * and what is written there is read by pvck(8) of lvm2.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->target = fn (string $name, int $bytes, int $sector = 512, array $marks = []): TargetDisk => new TargetDisk(
        $name, $bytes, $sector, "SN-$name", '', false, $marks, '',
    );
    $this->onto = fn (LayoutRecord $record, array $disks, LayoutWish $wish = new LayoutWish): LayoutPlan => LayoutProposal::of(
        $record,
        new TargetMachine('bios', '', '', 1 << 20, $disks, [], []),
        $wish,
    );
    /** The disks of the fixture, as files. */
    $this->made = function (): array {
        $disks = [];
        foreach (['system', 'data'] as $disk) {
            $raw = (string) gzdecode((string) file_get_contents(dirname(__DIR__, 2)."/Fixtures/lvm/$disk.raw.gz"));
            $disks[$disk] = $this->scratch->file("made/gate.$disk.raw", $raw);
        }

        return $disks;
    };
    /** Its heads, written onto blank files: disk of the machine => file. */
    $this->written = function (LayoutPlan $plan): array {
        $files = [];
        foreach ($plan->disks as $disk) {
            $file = $files[$disk->onto->name] = $this->scratch->file("new/{$disk->onto->name}", '');
            $opened = fopen($file, 'r+b');
            ftruncate($opened, $disk->onto->bytes);
            foreach ($disk->partitions as $one) {
                $found = $plan->part($disk->was->key($one->was));
                $found === null || [fseek($opened, $one->start), fwrite($opened, GroupHead::bytes($found[1], $found[0]->text()))];
            }
            fclose($opened);
            $disk->script() === '' || (new Process(['sfdisk', '--quiet', $file], null, null, $disk->script()))->mustRun();
        }

        return $files;
    };
    /** A group over some disks, with random volumes. */
    $this->random = function (Randomizer $random): LayoutRecord {
        $extent = [1 << 20, 4 << 20][$random->getInt(0, 1)];
        $id = fn (): string => VolumeGroup::dashed(bin2hex($random->getBytes(16)));
        $disks = $parts = [];
        $room = 0;
        for ($n = $random->getInt(1, 3); $n > 0; $n--) {
            $bytes = $random->getInt(60, 200) << 20;
            $content = new Content(ContentKind::Group, 'LVM', $id(), 'harbour', $bytes >> 1);
            $boot = new RecordedPartition(1, 1 << 20, 20 << 20, '83', '', '', 0, new Content(ContentKind::Image, used: 20 << 20));
            $disks[] = new RecordedDisk("disk$n", (22 << 20) + $bytes, 'dos', sprintf('0x0000000%d', $n), $n === 1, [
                $boot, new RecordedPartition(2, 21 << 20, $bytes, '8e', '', '', 0, $content),
            ]);
            $parts[] = "disk$n.2";
            $room += intdiv($bytes - (1 << 20), $extent);
        }
        $volumes = [];
        for ($n = 1; $room > 4 && $n < 7; $n++) {
            $extents = $random->getInt(1, (int) ceil($room / 2));
            $room -= $extents;
            $isFilled = $random->getInt(0, 2) > 0;
            $used = intdiv($extents * $extent * $random->getInt(1, 60), 100);
            $content = $isFilled ? new Content(ContentKind::Ext, 'ext4', used: $used, block: 4096, inode: 256) : new Content(
                ContentKind::Image, used: $extents * $extent,
            );
            $volumes[] = new RecordedVolume("v-$n", $id(), $extents * $extent, $content);
        }

        return new LayoutRecord($disks, '', [new RecordedGroup('harbour', $id(), $extent, $parts, $volumes)]);
    };
});

afterEach(fn () => $this->scratch->remove());

/** @param  array<string, string>  $disks */
function groupOn(array $disks): LayoutRecord
{
    return GroupReading::of(array_map(FileDisk::open(...), $disks));
}

/**
 * @param  array<string, string>  $files
 * @return array<array-key, mixed> the volumes as our reader has them
 */
function volumesOn(array $files): array
{
    $parts = [];
    foreach ($files as $file) {
        foreach (PartitionTable::of(FileDisk::open($file)) as $partition) {
            $parts[] = PhysicalVolume::on($partition);
        }
    }

    return LogicalVolumes::of(array_values(array_filter($parts)));
}

/** @return array<string, string> path => digest of its content, of the file system of a volume */
function digestsOn(LogicalVolume $volume): array
{
    $files = Ext::on($volume) ?? throw new LogicException('There is no file system.');
    $found = [];
    foreach (TreeWalk::below($files, $files->root()) as $path => $file) {
        $found[$path] = md5(implode('', [...$files->content($file)]));
    }

    return $found;
}

/** What pvck says of a part that lies in a file from a byte on. */
function pvck(string $file, int $from, int $bytes, string $what): string
{
    $part = "$file.part";
    (new Process(['dd', "if=$file", "of=$part", 'bs=1M', 'iflag=skip_bytes,count_bytes', "skip=$from", "count=$bytes", 'status=none']))
        ->mustRun();

    return (new Process(['pvck', '--dump', $what, $part], null, ['LVM_SUPPRESS_FD_WARNINGS' => '1']))->mustRun()->getOutput();
}

it('reads a group off the disks that it lies on, with what lies on each volume', function (): void {
    $record = groupOn(($this->made)());
    [$group] = $record->groups;
    $volumes = array_map(fn (RecordedVolume $one): array => [
        $one->name, $one->bytes >> 20, $one->content->kind, $one->content->type, $one->content->label, count($one->pieces),
    ], $group->volumes);
    expect([$group->name, $group->id, $group->extent, $group->parts])
        ->toBe(['harbour', 'bXlmAM-IvV1-0GDJ-VZZn-4jVa-QVVZ-E8Vt1F', 512 << 10, ['system.2', 'data']])
        ->and($volumes)->toBe([
            ['root', 12, ContentKind::Ext, 'ext4', 'root', 2], ['plans', 6, ContentKind::Ext, 'ext4', 'plans', 1],
            ['strips', 4, ContentKind::Ext, 'ext4', 'strips', 1],
        ])
        ->and($record->disk('system')?->partitions[1]->content->uuid)->toBe('U4c2Cc-InNA-wiOi-ssV8-jxvj-dOeB-IyqS3l')
        ->and($record->disk('data')?->partitions[0]->content->used)->toBe(24 << 19)
        ->and($record->disksOf('harbour-root'))->toBe(['system', 'data'])->and($record->disksOf('system.1'))->toBe(['system'])
        ->and(LayoutRecord::ofJson((string) json_encode($record->toArray())))->toEqual($record);
});

it('takes a group byte by byte of which a part is not there', function (): void {
    $record = groupOn(array_slice(($this->made)(), 0, 1));
    expect($record->groups)->toBe([])
        ->and([$record->disks[0]->partitions[1]->content->kind, $record->disks[0]->partitions[1]->content->type])
        ->toBe([ContentKind::Image, 'LVM']);
});

it('makes the same group anew, as pvck reads it', function (int $moreMebibytes): void {
    $record = groupOn(($this->made)());
    $plan = ($this->onto)($record, [
        ($this->target)('sda', 24 + $moreMebibytes << 20), ($this->target)('nvme0n1', 16 + $moreMebibytes << 20),
    ]);
    expect($plan->misfits)->toBe([]);
    [$group] = $plan->groups;
    $files = ($this->written)($plan);
    foreach ($group->parts as $number => $part) {
        $headers = pvck($files[$part->disk->onto->name], $part->partition->start, $part->partition->bytes, 'headers');
        expect($headers)->toContain('label_header.type LVM2 001')
            ->toContain('pv_header.pv_uuid '.str_replace('-', '', $part->id()))
            ->toContain("pv_header.device_size {$part->partition->bytes}")
            ->toContain('pv_header_extension.version 2')->toContain('pv_header_extension.flags 1')
            ->toContain('mda_header_1.size 1044480')
            ->toMatch('/^  metadata text at 4608 crc 0x[0-9a-f]+ # vgname harbour seqno 1$/m')
            ->not->toMatch('/wrong|incorrect|error|invalid|expected|bad/i');
        $text = pvck($files[$part->disk->onto->name], $part->partition->start, $part->partition->bytes, 'metadata');
        expect(trim(explode("  ---\n", $text)[1] ?? '', "\n\0"))->toBe(trim($group->text(), "\n\0"))
            ->and($group->text())->toContain(['device = "/dev/sda2"', 'device = "/dev/nvme0n1"'][$number]);
    }
    $sizes = array_map(fn ($one): int => $one instanceof LogicalVolume ? $one->size() : 0, volumesOn($files));
    expect($sizes)->toBe(['harbour-root' => 12 << 20, 'harbour-plans' => 6 << 20, 'harbour-strips' => 4 << 20])
        // What there is more is free in the group.
        ->and($group->bytesBefore())->toBe((17 + 15) << 20)
        ->and($group->bytes() - (22 << 20))->toBeGreaterThanOrEqual((7 << 20) + ($moreMebibytes << 21));
})->with([0, 40]);

it('gives orders that look for a group on its own parts, and fills its volumes', function (): void {
    $plan = ($this->onto)(groupOn(($this->made)()), [($this->target)('sda', 24 << 20), ($this->target)('nvme0n1', 16 << 20)]);
    $lines = explode("\n", MetalOrders::of($plan, str_repeat('a', 64), false, MetalOrders::OFF)->text());
    expect(preg_grep('/^(group|image sda 2|image nvme|sum)/', $lines))->toHaveCount(6);
    $words = array_map(fn (string $line): string => implode(' ', array_slice(explode(' ', $line), 0, 3)), $lines);
    expect(array_values(preg_grep('/harbour/', $words)))->toBe([
        'group harbour sda:2,nvme0n1:0', 'ext harbour /root', 'ext harbour /plans', 'ext harbour /strips', 'list harbour /root',
        'list harbour /plans', 'list harbour /strips',
    ]);
    $init = (string) file_get_contents(dirname(__DIR__, 3).'/resources/medium/init');
    expect($init)->toMatch('/^      group\) group /m');
});

it('lays random groups out on random disks: each volume whole, none over another, none smaller than it may be', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $record = ($this->random)($random);
    expect(LayoutRecord::ofJson((string) json_encode($record->toArray())))->toEqual($record);
    [$was] = $record->groups;
    foreach ([100, 150, 70, 40] as $percent) {
        $disks = [];
        foreach ($record->disks as $i => $disk) {
            $bytes = intdiv(intdiv($disk->bytes * $percent, 100), 512) * 512;
            $disks[] = ($this->target)("sd$i", $bytes + $random->getInt(0, 900) * 512);
        }
        $plan = ($this->onto)($record, $disks);
        $least = array_sum(array_map(fn (RecordedVolume $one): int => $one->content->kind === ContentKind::Image
            ? $one->bytes
            : min($one->bytes, $one->content->used + intdiv($one->content->used, 20) + (9 << 20)) + $was->extent, $was->volumes));
        if ($plan->misfits !== []) {
            $room = array_sum(array_map(fn (TargetDisk $one): int => $one->bytes - (23 << 20) - 2 * $was->extent, $disks));
            expect($percent)->toBeLessThan(100)->and($room / count($disks))->toBeLessThan($least / 1.0);

            continue;
        }
        [$group] = $plan->groups;
        $taken = [];
        foreach ($group->volumes as $volume) {
            $isImage = $volume->was->content->kind === ContentKind::Image;
            expect($volume->bytes)->toBe((int) array_sum(array_map(fn ($one): int => $one->extents, $volume->pieces)) * $was->extent)
                ->and($volume->bytes)->toBeGreaterThanOrEqual($isImage ? $volume->was->bytes : $volume->needs);
            $percent < 100 || expect($volume->bytes)->toBe($volume->was->bytes);
            foreach ($volume->pieces as $piece) {
                for ($at = $piece->from; $at < $piece->from + $piece->extents; $at++) {
                    expect(isset($taken["{$piece->part} $at"]))->toBeFalse();
                    $taken["{$piece->part} $at"] = true;
                }
                expect($piece->from + $piece->extents)->toBeLessThanOrEqual($group->parts[$piece->part]->extents($was->extent));
            }
        }
        $sizes = array_map(fn ($one): int => $one instanceof LogicalVolume ? $one->size() : 0, volumesOn(($this->written)($plan)));
        expect(array_values($sizes))->toBe(array_map(fn ($one): int => $one->bytes, $group->volumes));
    }
})->with(fn (): array => range(1, getenv('KAISEKI_DEEP') ? 120 : 12));

it('brings a group that has nothing free onto disks of the same sizes, to the sector', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $record = ($this->random)($random);
    [$was] = $record->groups;
    $room = 0;
    foreach ($record->disks as $disk) {
        $room += intdiv($disk->partitions[1]->bytes - (1 << 20), $was->extent);
    }
    $content = new Content(ContentKind::Image, used: $room * $was->extent);
    $full = $was->with([new RecordedVolume('all', $was->id, $room * $was->extent, $content)]);
    $record = new LayoutRecord($record->disks, '', [$full]);
    $end = fn (RecordedDisk $disk): int => $disk->partitions[1]->end();
    $onto = fn (int $less): LayoutPlan => ($this->onto)($record, array_map(
        fn (RecordedDisk $disk): TargetDisk => ($this->target)("t{$disk->name}", $end($disk) - $less * $was->extent),
        $record->disks,
    ));
    $plan = $onto(0);
    expect($plan->misfits)->toBe([])->and($plan->groups[0]->extents())->toBe($room)
        ->and(array_sum(array_map(fn ($piece): int => $piece->extents, $plan->groups[0]->volumes[0]->pieces)))->toBe($room)
        ->and($onto(1)->misfits)->not->toBe([]);
})->with(range(1, 8));

it('takes sizes that were said, and says what cannot be', function (): void {
    $record = ($this->random)(new Randomizer(new Mt19937(7)));
    [$was] = $record->groups;
    $disks = array_map(fn (RecordedDisk $one): TargetDisk => ($this->target)("t{$one->name}", $one->bytes + (400 << 20)), $record->disks);
    $filled = array_values(array_filter($was->volumes, fn (RecordedVolume $one): bool => $one->content->kind->isFilled()))[0];
    $key = $was->key($filled);
    $plan = ($this->onto)($record, $disks, new LayoutWish(sizes: [$key => $filled->bytes + (100 << 20)]));
    $planned = array_values(array_filter($plan->groups[0]->volumes, fn (PlannedVolume $one): bool => $one->was->name === $filled->name));
    expect($plan->misfits)->toBe([])->and($planned[0]->bytes)->toBe($filled->bytes + (100 << 20));
    $misfits = fn (LayoutWish $wish, array $on): array => ($this->onto)($record, $on, $wish)->misfits;
    expect($misfits(new LayoutWish(sizes: [$key => 1]), $disks)[0])->toContain("The volume $key needs at least")
        ->and($misfits(new LayoutWish(sizes: ['harbour-none' => 1]), $disks))->toBe(['The set has no "harbour-none".'])
        ->and($misfits(new LayoutWish(sizes: [$key => 1 << 50]), $disks))->not->toBe([]);
    $large = array_map(fn (TargetDisk $one): TargetDisk => ($this->target)($one->name, $one->bytes, 4096), $disks);
    expect(implode(' ', $misfits(new LayoutWish, $large)))->toContain('sectors of 4096 bytes');
    if (count($record->disks) > 1) {
        $part = new LayoutWish(without: [$record->disks[0]->name]);
        expect(implode(' ', $misfits($part, $disks)))->toContain('which is not brought: bring all of it, or nothing');
    }
    $other = ($this->target)('zzz', 900 << 20, 512, ['LVM2_member']);
    expect(implode(' ', ($this->onto)($record, [...$disks, $other])->cautions))->toContain('zzz, which is left alone, holds a part');
});

it('takes no group that cannot be', function (array $change, string $because): void {
    $record = groupOn(($this->made)())->toArray();
    $changed = (string) json_encode(array_replace_recursive($record, ['groups' => [$change]]));
    expect(fn () => LayoutRecord::ofJson($changed))->toThrow(UnfitLayout::class, $because);
})->with([
    'a name that is an option' => [['name' => '-rf'], 'groups.0.name'],
    'a name with a way out' => [['name' => 'a/b'], 'groups.0.name'],
    'a number with more to it' => [['id' => "bXlmAM-IvV1-0GDJ-VZZn-4jVa-QVVZ-E8Vt1F\"\n"], 'groups.0.id'],
    'a part that is none' => [['parts' => ['system.1', 'data']], 'does not lie on system.1'],
    'one part twice' => [['parts' => ['data', 'data']], 'on each once'],
    'a volume that is a command' => [['volumes' => [['name' => '$(reboot)']]], 'volumes.0.name'],
    'two of one name' => [['volumes' => [['name' => 'plans']]], 'two volumes of one name'],
    'more than its pieces have' => [['volumes' => [['bytes' => 100 << 20]]], 'not that of its pieces'],
    'no extents' => [['extent' => 0], 'groups.0.extent'],
]);

it('brings a group by hand, out of images, with stripes as plain volumes', function (): void {
    $disks = ($this->made)();
    $plan = ($this->onto)(groupOn($disks), [($this->target)('sda', 30 << 20), ($this->target)('sdb', 22 << 20)]);
    expect($plan->misfits)->toBe([]);
    foreach ($plan->disks as $disk) {
        (new Process(['truncate', '-s', (string) $disk->onto->bytes, $this->scratch->at("{$disk->onto->name}.new")]))->mustRun();
    }
    $script = $this->scratch->file('sheet.sh', implode("\n", ['set -eu', ...(new ImageSheet($plan, 'gate'))->lines()]));
    $ran = new Process(['dash', $script, dirname($disks['system'])], null, [
        'DISK_1' => $this->scratch->at('sda.new'), 'DISK_2' => $this->scratch->at('sdb.new'), 'PATH' => '/usr/sbin:/usr/bin:/sbin:/bin',
    ], "WRITE\n", 300);
    expect($ran->run())->toBe(0, $ran->getErrorOutput());
    $before = volumesOn($disks);
    foreach (volumesOn([$this->scratch->at('sda.new'), $this->scratch->at('sdb.new')]) as $name => $volume) {
        expect($volume)->toBeInstanceOf(LogicalVolume::class)->and($volume->size())->toBe($before[$name]->size());
        expect(digestsOn($volume))->toBe(digestsOn($before[$name]))->and(count(digestsOn($volume)))->toBeGreaterThan(59);
    }
});
