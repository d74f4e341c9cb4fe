<?php

declare(strict_types=1);

use Kaiseki\Core\Metal\Content;
use Kaiseki\Core\Metal\ContentKind;
use Kaiseki\Core\Metal\EnrolmentCode;
use Kaiseki\Core\Metal\LayoutProposal;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\MetalOrders;
use Kaiseki\Core\Metal\OrderedContent;
use Kaiseki\Core\Metal\RecordedDisk;
use Kaiseki\Core\Metal\RecordedPartition;
use Kaiseki\Core\Metal\TargetDisk;
use Kaiseki\Core\Metal\TargetMachine;

// What a medium is told: words that resources/medium/init knows, in the order in which they are done.

beforeEach(function (): void {
    $uuid = '6f1a7c0e-52b8-4c53-9d2f-0b7a1c9be001';
    $features = ['has_journal', 'extent', 'orphan_file'];
    $ext = new Content(ContentKind::Ext, 'ext4', $uuid, "a label; reboot\n", 20 << 20, 4096, 256, 60_000, $features);
    $this->record = new LayoutRecord([new RecordedDisk('system', 200 << 20, 'dos', '0x0badcafe', true, [
        new RecordedPartition(1, 1 << 20, 20 << 20, 'e', '', '', 128, new Content(ContentKind::Image, 'FAT16', used: 20 << 20)),
        new RecordedPartition(2, 21 << 20, 100 << 20, '83', '', '', 0, $ext),
        new RecordedPartition(5, 123 << 20, 40 << 20, '82', '', '', 0, new Content(ContentKind::Swap, 'swap', $uuid)),
    ])]);
    $disk = new TargetDisk('sda', 200 << 20, 512, 'AAA', '', false, [], '');
    $this->plan = LayoutProposal::of($this->record, new TargetMachine('bios', '', '', 0, [$disk], [], []));
});

it('gives orders that name disks, contents and lists, and nothing that could be run', function (): void {
    $orders = MetalOrders::of($this->plan, str_repeat('a', 64), false, MetalOrders::REBOOT);
    $lines = explode("\n", trim($orders->text()));
    expect(array_slice($lines, 0, 6))->toBe([
        'kaiseki-orders 1 '.str_repeat('a', 64),
        'disk sda 209715200',
        'table sda 0',
        'code sda 1 440 0',
        'code sda 2 512 1',
        'image sda 1 3',
    ])->and($lines[6])->toBe(
        'ext sda 2 4 ext4 6f1a7c0e-52b8-4c53-9d2f-0b7a1c9be001 4096 256 75000 has_journal,extent '.bin2hex("a label; reboot\n"),
    )->and(array_slice($lines, 7))->toBe([
        'swap sda 5 6f1a7c0e-52b8-4c53-9d2f-0b7a1c9be001 -', 'sum sda 1 0 20971520', 'list sda 2 1 ext4', 'reboot',
    ]);
    $named = fn (OrderedContent $one): string => "{$one->number} {$one->kind}";
    expect(array_map($named, $orders->contents()))->toBe(['0 table', '1 code', '2 gap', '3 image', '4 files'])
        ->and(array_map($named, $orders->listings()))->toBe(['0 image', '1 files']);
});

it('has a word in the medium for each that it gives, and does not restart one that only rehearsed', function (): void {
    $text = MetalOrders::of($this->plan, str_repeat('a', 64), true, MetalOrders::REBOOT)->text();
    expect($text)->toContain("\nrehearse\n")->toEndWith("\noff\n");
    $init = (string) file_get_contents(dirname(__DIR__, 3).'/resources/medium/init');
    foreach (array_slice(explode("\n", trim($text)), 1) as $line) {
        expect(preg_match('/^      [a-z |]*\b'.strtok($line, ' ').'\b[a-z |]*\)/m', $init))->toBe(1, $line);
    }
});

it('orders XFS with what it had, and its label in digits', function (): void {
    $uuid = '6f1a7c0e-52b8-4c53-9d2f-0b7a1c9be001';
    $content = new Content(ContentKind::Xfs, 'XFS', $uuid, '-n;reboot', 9 << 20, 4096, 512, 12, ['crc', 'reflink', 'ftype', 'sparse']);
    $record = new LayoutRecord([new RecordedDisk('data', 400 << 20, '', '', false, [
        new RecordedPartition(0, 0, 400 << 20, '', '', '', 0, $content),
    ])]);
    $disk = new TargetDisk('nvme0n1', 400 << 20, 512, 'AAA', '', false, [], '');
    $plan = LayoutProposal::of($record, new TargetMachine('bios', '', '', 0, [$disk], [], []));
    $lines = explode("\n", trim(MetalOrders::of($plan, str_repeat('a', 64), false, MetalOrders::OFF)->text()));
    expect(array_slice($lines, 3))->toBe([
        "xfs nvme0n1 0 1 $uuid 4096 crc=1,finobt=0,inobtcount=0,reflink=1,rmapbt=0,bigtime=0 size=512,sparse=1,nrext64=0 ftype=1 ".
            bin2hex('-n;reboot'),
        'list nvme0n1 0 0 xfs', 'off',
    ]);
    $init = (string) file_get_contents(dirname(__DIR__, 3).'/resources/medium/init');
    expect($init)->toMatch('/^      xfs\) xfs /m');
});

it('makes codes that are read out and typed as people do', function (): void {
    expect(EnrolmentCode::words())->toHaveCount(256)->and(array_unique(EnrolmentCode::words()))->toHaveCount(256);
    $secret = EnrolmentCode::secret();
    expect(explode('-', $secret))->toHaveCount(4)
        ->and(EnrolmentCode::parse('17-'.$secret))->toBe([17, $secret])
        ->and(EnrolmentCode::parse('  17 '.strtoupper(strtr($secret, '-', ' '))."\n"))->toBe([17, $secret]);
    foreach (['', '17', 'x-a-b-c-d', '17-a-b-c', '17-a-b-c-d-e', '0-a-b-c-d', '9999999999-a-b-c-d', "17-\xff"] as $none) {
        expect(EnrolmentCode::parse($none))->toBeNull();
    }
});

it('gives one that waits what it is to tell first, then what goes and comes, and numbers all of it', function (): void {
    $token = str_repeat('a', 64);
    $orders = MetalOrders::step($this->plan, $token, 3, MetalOrders::WAIT);
    expect(explode("\n", trim($orders->text())))->toBe([
        "kaiseki-orders 3 $token", 'disk sda 209715200',
        'sum sda 1 0 20971520', 'image sda 1 0',
        'list sda 2 1 ext4', 'less sda 2 ext4 1', 'more sda 2 ext4 2',
        'sum sda 1 2 20971520', 'list sda 2 3 ext4', 'wait',
    ]);
    expect(array_map(fn (OrderedContent $one): array => [$one->number, $one->kind], $orders->contents()))
        ->toBe([[0, OrderedContent::IMAGE], [1, OrderedContent::LESS], [2, OrderedContent::MORE]])
        ->and(array_map(fn (OrderedContent $one): int => $one->number, $orders->listings()))->toBe([2, 3])
        ->and($orders->before($this->plan->places()[1])->number)->toBe(1);
});

it('knows a layout again whose file systems have more in them, and no other', function (): void {
    $with = fn (Content $content, string $id = '0x0badcafe', int $bytes = 100 << 20): LayoutRecord => new LayoutRecord([
        new RecordedDisk('system', 200 << 20, 'dos', $id, true, [
            new RecordedPartition(2, 21 << 20, $bytes, '83', '', '', 0, $content),
        ]),
    ]);
    $content = fn (int $used, string $label = 'root', array $features = ['extent']): Content => new Content(
        ContentKind::Ext, 'ext4', '6f1a7c0e-52b8-4c53-9d2f-0b7a1c9be001', $label, $used, 4096, 256, $used >> 12, $features,
    );
    $was = $with($content(20 << 20));
    expect($was->isLaidOutLike($with($content(30 << 20, features: ['extent', 'orphan_file']))))->toBeTrue()
        ->and($was->isLaidOutLike($with($content(20 << 20, 'other'))))->toBeFalse()
        ->and($was->isLaidOutLike($with($content(20 << 20), '0x0badcaff')))->toBeFalse()
        ->and($was->isLaidOutLike($with($content(20 << 20), bytes: 90 << 20)))->toBeFalse()
        ->and($was->isLaidOutLike(new LayoutRecord([...$was->disks, new RecordedDisk('more', 1 << 20, '', '', false, [])])))->toBeFalse();
});
