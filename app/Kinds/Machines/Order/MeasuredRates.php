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
        );
    }

    /** @return iterable<Run> of the newest those that made a machine or disks anew: what a rollback writes depends on what differs */
    private static function runs(): iterable
    {
        return Run::query()
            ->where('state', 'done')
            ->whereIn('plan->way', [MachineWay::Whole->value, MachineWay::Disks->value])
            ->orderByDesc('id')
            ->limit(self::RUNS)
            ->with('steps')
            ->get();
    }
}
