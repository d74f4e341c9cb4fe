<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Words;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Metal\PlannedPartition;
use Kaiseki\Core\Metal\RecordedPartition;

/** Disks as bars to one scale, as they were above and as they will be below, and what goes where between them. */
final class LayoutDrawing
{
    public const WIDTH = 1232;

    public const HEIGHT = 134;

    public const BAR = 26;

    public const TOP = 20;

    public const BOTTOM = 88;

    private const GAP = 24;

    /** Points that even the smallest partition is wide. */
    private const LEAST = 4;

    /** @var list<DrawnDisk> whole disks */
    public array $disks = [];

    /** @var list<DrawnPart> */
    public array $parts = [];

    /** @var list<DrawnRibbon> */
    public array $ribbons = [];

    public static function of(LayoutPlan $plan): self
    {
        $drawing = new self;
        $bytes = array_map(fn (PlannedDisk $one): int => max($one->was->bytes, $one->onto->bytes), $plan->disks);
        $scale = (self::WIDTH - self::GAP * max(0, count($bytes) - 1)) / max(1, array_sum($bytes));
        $x = 0.0;
        foreach ($plan->disks as $number => $disk) {
            $drawing->disk($disk, $x, $scale);
            $x += $bytes[$number] * $scale + self::GAP;
        }

        return $drawing;
    }

    private function disk(PlannedDisk $disk, float $x, float $scale): void
    {
        $serial = $disk->onto->serial === '' ? '' : ", {$disk->onto->serial}";
        foreach ([
            [self::TOP, $disk->was->bytes, "{$disk->was->name}, ".Words::size($disk->was->bytes)],
            [self::BOTTOM, $disk->onto->bytes, "{$disk->onto->name}, ".Words::size($disk->onto->bytes).$serial],
        ] as [$y, $bytes, $words]) {
            $this->disks[] = new DrawnDisk($x, $y, $bytes * $scale, $words);
        }
        foreach ($disk->partitions as $one) {
            $was = [$x + $one->was->start * $scale, max(self::LEAST, $one->was->bytes * $scale)];
            $is = [$x + $one->start * $scale, max(self::LEAST, $one->bytes * $scale)];
            $this->part($was, self::TOP, self::words($one->was), $one);
            $this->part($is, self::BOTTOM, self::words($one->was, $one->bytes), $one);
            $this->ribbons[] = new DrawnRibbon(
                sprintf(
                    '%.1f,%d %.1f,%d %.1f,%d %.1f,%d',
                    $was[0], self::TOP + self::BAR, $was[0] + $was[1], self::TOP + self::BAR,
                    $is[0] + $is[1], self::BOTTOM, $is[0], self::BOTTOM,
                ),
                "{$one->was->number}: ".$one->was->content->kind->words(),
            );
        }
    }

    /** @param  array{float, float}  $at */
    private function part(array $at, int $y, string $title, PlannedPartition $one): void
    {
        $label = $one->was->name !== '' ? $one->was->name : $one->was->content->type;
        $words = $at[1] > 8 * mb_strlen($label) + 8 ? $label : '';
        $this->parts[] = new DrawnPart($at[0], $y, $at[1], $title, $words, $one->was->content->kind);
    }

    private static function words(RecordedPartition $one, ?int $bytes = null): string
    {
        return trim("{$one->number} {$one->name}").', '.Words::size($bytes ?? $one->bytes).
            ($one->content->type === '' ? '' : ", {$one->content->type}");
    }
}
