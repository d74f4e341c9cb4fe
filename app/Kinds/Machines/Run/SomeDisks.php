<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Order\NewMachineStep;
use App\Runs\RunLedger;
use Kaiseki\Core\Hypervisor\DiskSettings;

/** Some disks of a machine that is there: made and checked beside it, then they change places with those it has. */
final class SomeDisks extends NewMachine
{
    protected const STEPS = ['make new disks', NewMachineStep::WRITE, NewMachineStep::CHECK, 'change places', NewMachineStep::START];

    public function carryOut(RunLedger $ledger, int $first): PlacementOutcome
    {
        $isMeant = fn (DiskSettings $disk): bool => in_array($disk->name, $this->order->disks, true);
        $settings = $this->order->settings->with(
            disks: array_values(array_filter($this->order->settings->disks, $isMeant)),
            cards: [],
            boot: [],
            tags: [],
        );
        $ledger->step($first, fn (): string => $this->make($settings));
        $ledger->step($first + 1, fn (): string => $this->write());
        $ledger->step($first + 2, fn (): string => $this->checkAll());
        $ledger->step($first + 3, fn (): string => $this->changePlaces());

        return new PlacementOutcome($this->brought, [...self::checksOf($this->brought), ...$this->started($ledger, $first + 4)], true);
    }

    private function changePlaces(): string
    {
        $this->present();
        foreach ($this->isPlaced() ? [] : $this->order->disks as $disk) {
            // Whose mark a disk bears says whether it is the new one: it may be that an attempt before did this.
            if (! in_array(self::markOf($this->run), $this->hypervisor->marks($this->order->machine, $disk), true)) {
                $this->remember(changed_places: true);
                $this->hypervisor->swapDisk($this->order->machine, $disk, $this->made());
            }
        }
        $aside = $this->asideName();
        $this->hypervisor->machine($aside) !== null || $this->hypervisor->rename($this->made(), $aside);
        $this->remember(placed: true, aside: $aside);

        return implode(', ', $this->order->disks)."; those before belong to $aside";
    }

    public function whatWasDone(): string
    {
        return match (true) {
            $this->isPlaced() => ' The new disks are in place, and right.',
            $this->recalled('changed_places') === true => ' Some disks may have changed places: carry the run on, or put it back.',
            default => ' What stood there is as it was.',
        };
    }
}
