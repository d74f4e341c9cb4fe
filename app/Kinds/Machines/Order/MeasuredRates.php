<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Models\Run;
use App\Models\RunStep;

/** What runs at hypervisors took here; where nothing was measured yet, of a disk that is neither new nor busy, from memory. */
final readonly class MeasuredRates
{
    private const RUNS = 30;

    private function __construct(
        /** Bytes a second that are written to new disks. */
        public float $written = 100e6,
        /** Bytes a second that are read from them and compared. */
        public float $read = 250e6,
        /** Seconds until a machine that was started answers. */
        public float $answers = 20.0,
        /** @var array<int, float> how many stood on their sets already => seconds until one more answered */
        private array $beside = [],
    ) {
    }

    public static function now(): self
    {
        $bytes = $seconds = $times = [NewMachineStep::WRITE => 0.0, NewMachineStep::CHECK => 0.0, NewMachineStep::START => 0.0];
        foreach (self::runs() as $run) {
            $disks = (array) ($run->outcome['disks'] ?? []);
            $of = [
                NewMachineStep::WRITE => array_sum(array_column($disks, 'data')),
                NewMachineStep::CHECK => array_sum(array_column($disks, 'size')),
                NewMachineStep::START => ($run->plan['starts'] ?? false) === true ? 1 : null,
            ];
            foreach ($run->steps as $step) {
                assert($step instanceof RunStep);
                if (isset($of[$step->name]) && $step->seconds() !== null) {
                    $bytes[$step->name] += $of[$step->name];
                    $seconds[$step->name] += $step->seconds();
                    $times[$step->name]++;
                }
            }
        }
        $isMeasured = fn (string $step): bool => $seconds[$step] > 0.0 && $bytes[$step] > 0.0;
        $rate = fn (string $step, float $usual): float => $isMeasured($step) ? $bytes[$step] / $seconds[$step] : $usual;
        $usual = new self;

        return new self(
            $rate(NewMachineStep::WRITE, $usual->written),
            $rate(NewMachineStep::CHECK, $usual->read),
            $times[NewMachineStep::START] > 0.0 ? $seconds[NewMachineStep::START] / $times[NewMachineStep::START] : $usual->answers,
            self::measuredBeside(),
        );
    }

    /**
     * Seconds until a machine that is stood up answers. They share what reads the sets, so where that many were never tried, it is reckoned
     * from the most that were, in proportion.
     *
     * @param  int  $others  that stand on their sets already
     */
    public function answersBeside(int $others): float
    {
        $tried = array_filter(array_keys($this->beside), fn (int $one): bool => $one <= $others);
        $most = $tried === [] ? 0 : max($tried);

        return ($this->beside[$most] ?? $this->answers) * ($others + 1) / ($most + 1);
    }

    /** Whether one was stood up beside so many before. */
    public function isTriedBeside(int $others): bool
    {
        return isset($this->beside[$others]);
    }

    /** @return array<int, float> */
    private static function measuredBeside(): array
    {
        $seconds = [];
        foreach (self::done([MachineWay::StandUp]) as $run) {
            foreach ($run->steps as $step) {
                assert($step instanceof RunStep);
                if ($step->name === NewMachineStep::START && $step->seconds() !== null) {
                    $seconds[(int) ($run->outcome['beside'] ?? 0)][] = $step->seconds();
                }
            }
        }

        return array_map(fn (array $each): float => array_sum($each) / count($each), $seconds);
    }

    /** @return iterable<Run> of the newest those that made a machine or disks anew: what a rollback writes depends on what differs */
    private static function runs(): iterable
    {
        return self::done([MachineWay::Whole, MachineWay::Disks]);
    }

    /**
     * @param  list<MachineWay>  $ways
     * @return iterable<Run> the newest
     */
    private static function done(array $ways): iterable
    {
        return Run::query()
            ->where('state', 'done')
            ->whereIn('plan->way', array_column($ways, 'value'))
            ->orderByDesc('id')
            ->limit(self::RUNS)
            ->with('steps')
            ->get();
    }
}
