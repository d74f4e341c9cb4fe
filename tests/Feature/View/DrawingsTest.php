<?php

declare(strict_types=1);

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemSpan;
use App\Kinds\Items\Page\ItemLife;
use App\Kinds\Machines\Page\DrawnPart;
use App\Kinds\Machines\Page\DrawnRibbon;
use App\Kinds\Machines\Page\LayoutDrawing;
use App\Models\Role;
use App\Models\Workload;
use App\Sets\Points;
use App\View\VersionBar;
use App\View\VersionsView;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Metal\Content;
use Kaiseki\Core\Metal\ContentKind;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Metal\PlannedPartition;
use Kaiseki\Core\Metal\RecordedDisk;
use Kaiseki\Core\Metal\RecordedPartition;
use Kaiseki\Core\Metal\TargetDisk;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Archives;

// Drawings are to scale: what is wider is more, nothing lies outside, and nothing upon another that does not in life.

it('draws the life of a path without gaps where it was, from the first point to now', function (): void {
    $archives = (new Archives($this->scratch()))->put('roster', 'one');
    $archives->dump('full');
    $archives->put('roster', 'two, longer');
    $archives->dump('incr');
    $archives->delete('roster');
    $archives->dump('incr');
    $archives->put('roster', 'three');
    $archives->dump('incr');
    $this->told(0, 'adopt', $archives->folder, '--as=tree');
    $view = new VersionsView(Workload::query()->sole(), 'tree/roster', $this->person(Role::Operator));
    $bars = $view->strip();
    [$from, $to] = $view->axis();
    expect(array_map(fn (VersionBar $bar): int => $bar->version->version->size, $bars))->toBe([3, 11, 5])
        ->and(array_map(fn (VersionBar $bar): bool => $bar->isOdd, $bars))->toBe([false, true, false]);
    $at = fn (int $instant): float => round(($instant - $from) / ($to - $from) * VersionsView::WIDTH, 2);
    foreach ($bars as $bar) {
        expect($bar->x)->toBe($at($bar->version->first))
            ->and($bar->x + $bar->width)->toBeLessThanOrEqual(VersionsView::WIDTH + 2.0)
            ->and($bar->width)->toBeGreaterThanOrEqual(2.0);
    }
    // The first two follow one another; then nothing was there for a day.
    expect($bars[0]->x + $bars[0]->width)->toEqualWithDelta($bars[1]->x, 2.0)
        ->and($bars[2]->version->first)->toBeGreaterThan($bars[1]->version->until);
});

it('draws the life of an item with a row for each folder', function (): void {
    $archives = (new Archives($this->scratch()))->put('a', 'x');
    foreach (['full', 'incr', 'incr', 'incr', 'incr'] as $level) {
        $archives->dump($level);
    }
    $this->told(0, 'adopt', $archives->folder, '--as=tree');
    $points = new Points(Workload::query()->sole());
    $sets = array_values($points->sets);
    $span = fn (string $folder, int $first, int $until): ItemSpan => new ItemSpan(
        1, 'ada', $folder, 'm:2,S', $sets[0]->history, $sets[$first]->instant, $until === 9 ? PHP_INT_MAX : $sets[$until]->instant,
        0, '', 1, 1,
    );
    $other = new ItemSpan(1, 'ada', 'INBOX', 'm', $sets[0]->history + 1, $sets[0]->instant, PHP_INT_MAX, 0, '', 1, 1);
    $item = new FoundItem(
        1, str_repeat("\1", 32), ItemSort::Message, '', 1, 's', '', '', 0, 0, 1, 0,
        App\Kinds\Items\Catalog\ItemDetails::parse('{"to":[],"cc":[],"attached":[],"wrong":[]}'),
        [$span('INBOX', 0, 1), $span('Trash', 1, 2), $span('INBOX', 3, 9), $other],
    );
    $life = ItemLife::of($item, $points, $sets[0]->history, $sets[2]->instant);
    expect(array_column($life->rows, 'folder'))->toBe(['ada/INBOX', 'ada/Trash'])
        ->and(array_map(count(...), array_column($life->rows, 'bars')))->toBe([2, 1])
        ->and($life->height())->toBe(2 * ItemLife::ROW);
    [$inbox, $trash] = array_column($life->rows, 'bars');
    expect($inbox[0]['x'])->toBe(0.0)
        ->and($inbox[0]['x'] + $inbox[0]['width'])->toEqualWithDelta($trash[0]['x'], 0.2)
        ->and($life->pointX)->toEqualWithDelta($trash[0]['x'] + $trash[0]['width'], 0.2)
        ->and($inbox[1]['x'] + $inbox[1]['width'])->toEqualWithDelta((float) ItemLife::WIDTH, 0.2);
});

it('draws disks to one scale, with each partition inside its disk', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $disks = [];
    for ($number = $random->getInt(1, 3); $number > 0; $number--) {
        [$was, $onto] = [$random->getInt(20, 200) << 30, $random->getInt(20, 200) << 30];
        $parts = $planned = [];
        [$at, $there] = [1 << 20, 1 << 20];
        for ($n = 1; $n <= $random->getInt(1, 4); $n++) {
            [$bytes, $now] = [$random->getInt(1, 4) << 30, $random->getInt(1, 4) << 30];
            $content = new Content(ContentKind::Ext, 'ext4', '', '', $bytes >> 1);
            $parts[] = $part = new RecordedPartition($n, $at, $bytes, 'x', '', "part $n", 0, $content);
            $planned[] = new PlannedPartition($part, $there, $now, $now >> 1);
            [$at, $there] = [$at + $bytes, $there + $now];
        }
        $disks[] = new PlannedDisk(
            new RecordedDisk("disk-$number", $was, 'gpt', 'x', false, $parts),
            new TargetDisk("target-$number", $onto, 512, "SER$number", '', false, [], ''),
            $planned,
        );
    }
    $drawing = LayoutDrawing::of(new LayoutPlan($disks, [], [], []));
    expect($drawing->disks)->toHaveCount(2 * count($disks))
        ->and($drawing->ribbons)->toHaveCount(count($drawing->parts) / 2)->each->toBeInstanceOf(DrawnRibbon::class);
    $widest = max(array_map(fn ($disk): float => $disk->x + $disk->width, $drawing->disks));
    expect($widest)->toBeLessThanOrEqual(LayoutDrawing::WIDTH + 0.01);
    foreach ($drawing->parts as $part) {
        $own = array_values(array_filter($drawing->disks, fn ($disk): bool => $disk->y === $part->y && $part->x >= $disk->x - 0.01 &&
            $part->x + $part->width <= $disk->x + $disk->width + 4.01)); // the smallest are four points wide, whatever they hold
        expect($own)->not->toBe([], $part->title);
    }
    // What is twice as large is twice as wide, on whichever disk.
    $perByte = array_map(
        fn (PlannedDisk $disk, int $i): float => $drawing->disks[2 * $i]->width / $disk->was->bytes,
        $disks,
        array_keys($disks),
    );
    expect(max($perByte) - min($perByte))->toBeLessThan(1e-12);
    $parts = array_values(array_filter($drawing->parts, fn (DrawnPart $part): bool => $part->y === LayoutDrawing::TOP));
    expect(array_sum(array_map(fn (DrawnPart $part): float => $part->width, $parts)))->toBeGreaterThan(0.0);
})->with(range(1, 6));
