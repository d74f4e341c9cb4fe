<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\Volume\Ext;
use Kaiseki\Core\Volume\FileSystem;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\LogicalVolume;
use Kaiseki\Core\Volume\LogicalVolumes;
use Kaiseki\Core\Volume\LvmText;
use Kaiseki\Core\Volume\PartitionTable;
use Kaiseki\Core\Volume\PhysicalVolume;
use Kaiseki\Core\Volume\UnreadableVolume;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Scratch;

/*
 * Disks that lvm2 of Debian 12 made a volume group of (tests/Fixtures/lvm/make.sh), with file systems of mke2fs in its volumes: one in
 * two pieces on two disks, one in one piece, one in stripes.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->disks = [];
    foreach (['system', 'data'] as $disk) {
        $raw = (string) gzdecode((string) file_get_contents(dirname(__DIR__, 2)."/Fixtures/lvm/$disk.raw.gz"));
        $this->disks[$disk] = $this->scratch->file("$disk.raw", $raw);
    }
    $this->parts = fn (): array => [
        PhysicalVolume::on(PartitionTable::of(FileDisk::open($this->disks['system']))[1]),
        PhysicalVolume::on(FileDisk::open($this->disks['data'])),
    ];
});

afterEach(fn () => $this->scratch->remove());

/** @return array<string, string> path => digest of its content */
function contentsOf(FileSystem $files, FoundFile $folder, string $at = ''): array
{
    $found = [];
    foreach ($files->children($folder) as $name => $file) {
        if ($file->version->kind === EntryKind::Folder) {
            $found += contentsOf($files, $file, "$at/$name");
        } else {
            $content = '';
            foreach ($files->content($file) as $bytes) {
                $content .= $bytes;
            }
            $found["$at/$name"] = md5($content);
        }
    }

    return $found;
}

it('reads the volumes of a group over two disks, in pieces and in stripes', function (): void {
    $volumes = LogicalVolumes::of(array_filter(($this->parts)()));
    expect(array_keys($volumes))->toBe(['harbour-root', 'harbour-plans', 'harbour-strips']);
    foreach (['root' => 12, 'plans' => 6, 'strips' => 4] as $name => $mebibytes) {
        $volume = $volumes["harbour-$name"];
        expect($volume)->toBeInstanceOf(LogicalVolume::class)->and($volume->size())->toBe($mebibytes << 20);
        $files = Ext::on($volume);
        $found = contentsOf($files, $files->root());
        foreach (range(1, 60) as $i) {
            expect($found["/srv/$i.csv"])->toBe(md5(str_repeat("$name,$i\n", 10 * $i)));
        }
    }
    $root = Ext::on($volumes['harbour-root']);
    expect(contentsOf($root, $root->root())['/large'])->toBe(md5(substr(str_repeat("berth\n", 1_500_001), 0, 9_000_000)));
});

it('says of a volume whose other disk is not there that it is not, and reads the rest', function (): void {
    [$system, $data] = ($this->parts)();
    $here = array_map(fn ($volume): bool => $volume instanceof LogicalVolume, LogicalVolumes::of([$data]));
    expect($here)->toBe(['harbour-root' => false, 'harbour-plans' => true, 'harbour-strips' => false])
        ->and(LogicalVolumes::of([$system])['harbour-root']->getMessage())->toContain('a disk that is not here')
        ->and(LogicalVolumes::of([]))->toBe([]);
});

it('refuses metadata that is not what its checksums say, whichever byte is another', function (): void {
    $at = 10240 * 512;
    $whole = (string) file_get_contents($this->disks['system']);
    $text = (int) strpos($whole, 'extent_size', (int) strrpos($whole, 'seqno') - 400);
    foreach ([$at + 4096 + 8, $at + 4096 + 60, $text + 3] as $byte) {
        file_put_contents($this->disks['system'], substr_replace($whole, chr(ord($whole[$byte]) ^ 1), $byte, 1));
        try {
            $volumes = LogicalVolumes::of(array_filter([($this->parts)()[0]]));
            expect($volumes)->toHaveCount(3); // it was in an older text
        } catch (UnreadableVolume $unreadable) {
            expect($unreadable->getMessage())->toContain('LVM');
        }
    }
    file_put_contents($this->disks['system'], substr_replace($whole, 'LABELTWO', $at + 512, 8));
    expect(($this->parts)()[0])->toBeNull();
});

it('ends at whatever a text of LVM or a label says', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $whole = (string) file_get_contents($this->disks['data']);
    for ($n = 0; $n < 60; $n++) {
        $broken = substr_replace($whole, $random->getBytes(4), $random->getInt(512, 6000), 4);
        file_put_contents($this->disks['data'], $broken);
        try {
            $physical = PhysicalVolume::on(FileDisk::open($this->disks['data']));
            foreach ($physical === null ? [] : LogicalVolumes::of([$physical]) as $volume) {
                $volume instanceof LogicalVolume && $volume->read(0, 4096);
            }
        } catch (UnreadableVolume) {
            continue;
        }
    }
    foreach (['a {', 'a = [1', str_repeat('a {', 50), 'a = b', '} }', "a = \"x\ny", '='] as $text) {
        try {
            LvmText::parse($text);
        } catch (UnreadableVolume) {
            continue;
        }
    }
    expect(LvmText::parse("g { # note\nid = \"a\\\"b\"\nn = -5\nl = [\"x\", 2]\n}\n\0"))
        ->toBe(['g' => ['id' => 'a"b', 'n' => -5, 'l' => ['x', 2]]]);
})->with([1, 2]);
