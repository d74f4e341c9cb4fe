<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Words;
use Kaiseki\Core\Metal\Content;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Metal\PlannedGroup;

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
        $bytes = [
            ...array_map(fn (PlannedDisk $one): int => max($one->was->bytes, $one->onto->bytes), $plan->disks),
            ...array_map(fn (PlannedGroup $one): int => max($one->bytesBefore(), $one->bytes()), $plan->groups),
        ];
        $scale = (self::WIDTH - self::GAP * max(0, count($bytes) - 1)) / max(1, array_sum($bytes));
        $x = 0.0;
        foreach ([...$plan->disks, ...$plan->groups] as $number => $one) {
            $one instanceof PlannedDisk ? $drawing->disk($one, $x, $scale) : $drawing->group($one, $x, $scale);
            $x += $bytes[$number] * $scale + self::GAP;
        }

        return $drawing;
    }

    private function disk(PlannedDisk $disk, float $x, float $scale): void
    {
        $serial = $disk->onto->serial === '' ? '' : ", {$disk->onto->serial}";
        $this->disks[] = self::bar($x, self::TOP, $disk->was->bytes * $scale, $disk->was->name, $disk->was->bytes);
        $this->disks[] = self::bar($x, self::BOTTOM, $disk->onto->bytes * $scale, $disk->onto->name, $disk->onto->bytes, $serial);
        foreach ($disk->partitions as $one) {
            $content = $one->was->content;
            $name = trim("{$one->was->number} {$one->was->name}");
            $label = $one->was->name !== '' ? $one->was->name : $content->type;
            $this->part($x + $one->was->start * $scale, $one->was->bytes, self::TOP, $scale, $name, $label, $content);
            $this->part($x + $one->start * $scale, $one->bytes, self::BOTTOM, $scale, $name, $label, $content);
            $this->ribbon("{$one->was->number}: ".$content->kind->words());
        }
    }

    /** Its volumes one behind the other, wherever they lie on its parts. */
    private function group(PlannedGroup $group, float $x, float $scale): void
    {
        $name = $group->was->name;
        $this->disks[] = self::bar($x, self::TOP, $group->bytesBefore() * $scale, $name, $group->bytesBefore());
        $this->disks[] = self::bar($x, self::BOTTOM, $group->bytes() * $scale, $name, $group->bytes());
        $was = $is = 0;
        foreach ($group->volumes as $one) {
            $content = $one->was->content;
            $this->part($x + $was * $scale, $one->was->bytes, self::TOP, $scale, $one->was->name, $one->was->name, $content);
            $this->part($x + $is * $scale, $one->bytes, self::BOTTOM, $scale, $one->was->name, $one->was->name, $content);
            $this->ribbon("{$one->was->name}: ".$content->kind->words());
            [$was, $is] = [$was + $one->was->bytes, $is + $one->bytes];
        }
    }

    private static function bar(float $x, int $y, float $width, string $name, int $bytes, string $more = ''): DrawnDisk
    {
        return new DrawnDisk($x, $y, $width, "$name, ".Words::size($bytes).$more);
    }

    private function part(float $x, int $bytes, int $y, float $scale, string $name, string $label, Content $content): void
    {
        $width = max(self::LEAST, $bytes * $scale);
        $title = "$name, ".Words::size($bytes).($content->type === '' ? '' : ", {$content->type}");
        $words = $width > 8 * mb_strlen($label) + 8 ? $label : '';
        $this->parts[] = new DrawnPart($x, $y, $width, $title, $words, $content->kind);
    }

    /** Between the two parts that were drawn last. */
    private function ribbon(string $title): void
    {
        [$was, $is] = array_slice($this->parts, -2);
        $this->ribbons[] = new DrawnRibbon(
            sprintf(
                '%.1f,%d %.1f,%d %.1f,%d %.1f,%d',
                $was->x, self::TOP + self::BAR, $was->x + $was->width, self::TOP + self::BAR,
                $is->x + $is->width, self::BOTTOM, $is->x, self::BOTTOM,
            ),
            $title,
        );
    }
}
