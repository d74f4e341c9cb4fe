<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Models\Run;
use App\Models\RunStep;

/** How long a way takes: while the machine goes on, and while it stands still. Seconds, from what runs took here. */
final readonly class WayTimes
{
    /** Bytes a second that are taken where nothing was measured yet: of a disk that is neither new nor busy, from memory. */
    private const WRITTEN = 100e6;

    private const READ = 250e6;

    /** For what is only named otherwise, or configured. */
    private const MOMENT = 2.0;

    /** The part of its data that is taken to have changed where nobody has compared. */
    private const CHANGED = 0.05;

    /** Runs that are looked at. */
    private const RUNS = 30;

    private function __construct(public float $goesOn, public float $standsStill)
    {
    }

    /** @param  array{float, float}  $rates  as rates() gives them */
    public static function of(PlacementPlan $plan, array $rates): self
    {
        [$written, $read] = $rates;
        $size = $plan->planned->sizes();
        $data = array_sum($plan->planned->bytes());
        $new = $data / $written + $size / $read;
        $isGone = $plan->present() === null;

        return match ($plan->order->way) {
            MachineWay::Whole => new self($isGone ? 0.0 : $new, $isGone ? $new : self::MOMENT),
            MachineWay::Disks => new self($new, self::MOMENT),
            MachineWay::Rollback => new self(0.0, 2 * $size / $read + self::CHANGED * $data / $written),
            MachineWay::Configuration => new self(0.0, self::MOMENT),
        };
    }

    /** @return array{float, float} bytes a second that are written to new disks, and read from them and compared */
    public static function rates(): array
    {
        $runs = Run::query()
            ->where('state', 'done')
            ->whereIn('plan->way', [MachineWay::Whole->value, MachineWay::Disks->value])
            ->orderByDesc('id')
            ->limit(self::RUNS)
            ->with('steps')
            ->get();
        $bytes = $seconds = [NewMachineStep::WRITE => 0.0, NewMachineStep::CHECK => 0.0];
        foreach ($runs as $run) {
            $disks = (array) ($run->outcome['disks'] ?? []);
            $of = [
                NewMachineStep::WRITE => array_sum(array_column($disks, 'data')),
                NewMachineStep::CHECK => array_sum(array_column($disks, 'size')),
            ];
            foreach ($run->steps as $step) {
                assert($step instanceof RunStep);
                if (isset($of[$step->name]) && $step->seconds() !== null) {
                    $bytes[$step->name] += $of[$step->name];
                    $seconds[$step->name] += $step->seconds();
                }
            }
        }
        $isMeasured = fn (string $step): bool => $seconds[$step] > 0.0 && $bytes[$step] > 0.0;
        $rate = fn (string $step, float $usual): float => $isMeasured($step) ? $bytes[$step] / $seconds[$step] : $usual;

        return [$rate(NewMachineStep::WRITE, self::WRITTEN), $rate(NewMachineStep::CHECK, self::READ)];
    }
}
