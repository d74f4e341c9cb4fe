<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** Parts of a file: sorted, apart from each other, each from its first byte to behind its last. */
final readonly class ByteRanges
{
    /** @param  list<array{int, int}>  $ranges */
    private function __construct(public array $ranges)
    {
    }

    /** @param  list<array{int, int}>  $ranges  in any order; those that touch are joined */
    public static function of(array $ranges): self
    {
        sort($ranges);
        $joined = [];
        foreach ($ranges as [$from, $to]) {
            $last = count($joined) - 1;
            if ($last >= 0 && $from <= $joined[$last][1]) {
                $joined[$last][1] = max($to, $joined[$last][1]);
            } elseif ($to > $from) {
                $joined[] = [$from, $to];
            }
        }

        return new self($joined);
    }

    public function isEmpty(): bool
    {
        return $this->ranges === [];
    }

    public function bytes(): int
    {
        return array_sum(array_map(fn (array $range): int => $range[1] - $range[0], $this->ranges));
    }

    /** Whether any byte from $from until before $to lies in one of them. */
    public function touch(int $from, int $to): bool
    {
        foreach ($this->ranges as [$begin, $end]) {
            if ($begin < $to && $end > $from) {
                return true;
            }
        }

        return false;
    }

    /** "bytes 0 to 262,143 and 524,288 to 786,431"; the first few of many. */
    public function words(): string
    {
        $words = array_map(
            fn (array $range): string => number_format($range[0]).' to '.number_format($range[1] - 1),
            array_slice($this->ranges, 0, 3),
        );
        $more = count($this->ranges) - count($words);

        return 'bytes '.implode(', ', $words).($more > 0 ? " and $more more places" : '');
    }
}
