<?php

declare(strict_types=1);

namespace App\View;

use App\Words;
use Carbon\CarbonImmutable;

/** How much lies on a store, or of a workload, and how that goes. */
final readonly class UseLine
{
    /** Days beyond which nobody can tell. */
    public const LONG = 1000;

    /**
     * @param  int  $bytes  now
     * @param  array<string, int>  $days  day => bytes, the oldest first
     * @param  array<string, int>  $parts  store => bytes of it there, where it is one of a workload
     */
    public function __construct(
        public string $name,
        public string $url,
        public int $copies,
        public int $bytes,
        public array $days,
        public array $parts = [],
        /** Bytes that are free; null where that cannot be told. */
        public ?int $free = null,
    ) {
    }

    public function trend(): TrendLine
    {
        return new TrendLine([...array_values($this->days), $this->bytes]);
    }

    public function trendInWords(): string
    {
        $from = Words::size($this->trend()->values[0]);

        return 'Over '.count($this->days)." days, from $from to ".Words::size($this->bytes);
    }

    /** Bytes more than so many days ago; null where nobody looked then. */
    public function growth(int $days): ?int
    {
        $then = CarbonImmutable::now('UTC')->subDays($days)->format('Y-m-d');
        $before = array_filter($this->days, fn (string $day): bool => $day <= $then, ARRAY_FILTER_USE_KEY);

        return $before === [] ? null : $this->bytes - (int) end($before);
    }

    /** Days until it is full if it goes on like the last thirty; null where it does not grow, or that cannot be told. */
    public function daysLeft(): ?int
    {
        $growth = $this->growth(30);

        return $this->free === null || $growth === null || $growth <= 0 ? null : (int) floor(($this->free / $growth) * 30);
    }
}
