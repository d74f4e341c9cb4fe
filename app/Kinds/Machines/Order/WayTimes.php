<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

/**
 * How long a way takes: while the machine goes on, while it stands still, and what is still owed once it runs again. Seconds, from what
 * runs took here.
 */
final readonly class WayTimes
{
    /** For what is only named otherwise, or configured. */
    private const MOMENT = 2.0;

    /** For making one that stands, whatever its size. */
    private const STANDS = 0.5;

    /** The part of its data that is taken to have changed where nobody has compared. */
    private const CHANGED = 0.05;

    /** How many times as fast, or as slow, it may turn out. */
    private const SPREAD = 2.5;

    private function __construct(public float $goesOn, public float $standsStill, public float $owed = 0.0)
    {
    }

    /**
     * @param  bool  $isGone  whether no machine stands there
     * @param  int  $others  machines that stand on their sets already
     */
    public static function of(PlacementOrder $order, PlannedDisks $planned, bool $isGone, MeasuredRates $rates, int $others = 0): self
    {
        $most = $order->limit === null ? INF : $order->limit * 1e6;

        $data = array_sum($planned->bytes());

        return self::reckoned($order->way, $planned->sizes(), $data, $isGone, $order->starts, $most, $rates, $others);
    }

    /**
     * @param  int  $size  bytes of its disks, zeros and all
     * @param  int  $data  of which so many are no zeros
     * @param  float  $most  bytes a second that are written and read at most
     */
    public static function reckoned(
        MachineWay $way,
        int $size,
        int $data,
        bool $isGone,
        bool $starts,
        float $most,
        MeasuredRates $rates,
        int $others = 0,
    ): self {
        [$written, $read] = [min($most, $rates->written), min($most, $rates->read)];
        $new = $data / $written + $size / $read;
        $answers = $starts ? $rates->answers : 0.0;

        return match ($way) {
            MachineWay::Whole => new self($isGone ? 0.0 : $new, ($isGone ? $new : self::MOMENT) + $answers),
            MachineWay::StandUp => new self(0.0, self::STANDS + $rates->answersBeside($others), $new),
            MachineWay::Disks => new self($new, self::MOMENT + $answers),
            MachineWay::Rollback => new self(0.0, 2 * $size / $read + self::CHANGED * $data / $written + $answers),
            MachineWay::Configuration => new self(0.0, self::MOMENT + $answers),
        };
    }

    /** Until all of it is done. */
    public function all(): float
    {
        return $this->goesOn + $this->standsStill + $this->owed;
    }

    /** @return array{likely: float, least: float, most: float, lanes: array<never>} as an estimate is kept with a run */
    public function estimate(): array
    {
        $likely = $this->goesOn + $this->standsStill;

        return ['likely' => $likely, 'least' => $likely / self::SPREAD, 'most' => $likely * self::SPREAD, 'lanes' => []];
    }
}
