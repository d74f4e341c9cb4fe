<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Catalog\FoundItem;
use App\Sets\Points;
use Carbon\CarbonImmutable;

/** When an item was there, drawn along the time from the first point to the last: a bar for each folder that it lay in. */
final readonly class ItemLife
{
    public const WIDTH = 640;

    public const ROW = 16;

    /** @param  list<array{folder: string, bars: list<array{x: float, width: float}>}>  $rows */
    private function __construct(
        public array $rows,
        public float $pointX,
        public CarbonImmutable $from,
        public CarbonImmutable $to,
    ) {
    }

    public static function of(FoundItem $item, Points $points, int $history, int $instant): self
    {
        $instants = [];
        foreach ($points->sets as $set) {
            if ($set->history === $history) {
                $instants[] = $set->instant;
            }
        }
        [$from, $to] = $instants === [] ? [0, 1] : [min($instants), max($instants)];
        $end = $to + max(1, intdiv($to - $from, 40)); // what is still there goes on a little beyond the newest point
        $x = fn (int $at): float => round(self::WIDTH * (min($end, max($from, $at)) - $from) / max(1, $end - $from), 1);
        $rows = [];
        foreach ($item->spans as $span) {
            if ($span->history === $history) {
                $begin = $x($span->first);
                $rows["{$span->mailbox}/{$span->folder}"][] = ['x' => $begin, 'width' => max(2.0, $x($span->until) - $begin)];
            }
        }

        $named = fn (string $folder, array $bars): array => ['folder' => $folder, 'bars' => $bars];

        $moment = fn (int $at): CarbonImmutable => CarbonImmutable::createFromTimestampUTC(intdiv($at, 1_000_000));

        return new self(array_map($named, array_keys($rows), array_values($rows)), $x($instant), $moment($from), $moment($to));
    }

    public function height(): int
    {
        return self::ROW * count($this->rows);
    }
}
