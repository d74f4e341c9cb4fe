<?php

declare(strict_types=1);

namespace App\View;

use App\Care\KeptStanding;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Kaiseki\Core\Objective\Concern;

/** A workload as the page of the estate shows it. */
final readonly class EstateLine
{
    private const SHOWN = 2;

    /**
     * @param  list<Concern>  $concerns  the weightiest first
     * @param  int  $open  requests
     * @param  CarbonImmutable|null  $proven  when a run of it was proven last
     * @param  list<bool>  $days  oldest first: whether the promises were kept
     */
    public function __construct(
        public Workload $workload,
        public KeptStanding $kept,
        public array $concerns,
        public int $open,
        public ?CarbonImmutable $proven,
        public array $days,
    ) {
    }

    /** @return list<Concern> those that are shown */
    public function weightiest(): array
    {
        return array_slice($this->concerns, 0, self::SHOWN);
    }

    /** Concerns that are not shown. */
    public function more(): int
    {
        return max(0, count($this->concerns) - self::SHOWN);
    }

    /**
     * How much the weightiest concern matters.
     *
     * @param  list<Concern>|null  $concerns  the weightiest first; null where how it stands could not be told, which matters most
     */
    public static function weightOf(?array $concerns): int
    {
        return $concerns === null ? 100 : $concerns[0]->weight ?? 0;
    }

    public function daysInWords(): string
    {
        return self::keptInWords($this->days);
    }

    /** @param  list<bool>  $days  whether the promises were kept */
    public static function keptInWords(array $days): string
    {
        return 'Of the last '.count($days).' days on record the promises were kept on '.count(array_filter($days));
    }
}
