<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Order\NewMachineStep;
use App\Runs\RunLedger;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Proof\CheckLine;

/** Only how a machine that is there is configured; of its disks, which stay, the order and the bus. */
final class OnlySettings extends WayAtHypervisor
{
    protected const STEPS = ['configure it', NewMachineStep::START];

    public function carryOut(RunLedger $ledger, int $first): PlacementOutcome
    {
        $ledger->step($first, fn (): string => $this->configure());
        $there = $this->hypervisor->machine($this->order->machine)?->settings;
        $left = $there?->differences($this->order->settings) ?? [];
        $checks = [CheckLine::of('the machine is configured as at the point', $left === [], implode('; ', $left) ?: 'all of it')];

        return new PlacementOutcome([], [...$checks, ...$this->started($ledger, $first + 1)], false);
    }

    private function configure(): string
    {
        if ($this->isPlaced()) {
            return 'done before';
        }
        $present = $this->present()->settings;
        $settings = self::fitting($this->order->settings, $present);
        $this->recalled('settings_before') !== null || $this->remember(settings_before: $present->toArray());
        $this->hypervisor->configure($this->order->machine, $settings);
        $this->remember(placed: true, settings: $settings->toArray());

        return implode('; ', $settings->differences($present)) ?: 'it was so already';
    }

    /** Disks that it has now and had not then stay, behind the others; those it has no more cannot be configured. */
    private static function fitting(MachineSettings $then, MachineSettings $now): MachineSettings
    {
        $disks = [];
        foreach ($then->disks as $disk) {
            $there = $now->disk($disk->name);
            $there === null || ($disks[$disk->name] = new DiskSettings($disk->name, $there->size, $disk->bus));
        }
        foreach ($now->disks as $disk) {
            $disks[$disk->name] ??= $disk;
        }

        return $then->with(
            name: $now->name,
            disks: array_values($disks),
            boot: array_values(array_intersect($then->boot, array_keys($disks))),
        );
    }

    public function whatWasDone(): string
    {
        return $this->isPlaced() ? ' It is configured.' : ' It is configured as it was.';
    }
}
