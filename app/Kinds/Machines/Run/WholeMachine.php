<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Order\NewMachineStep;
use App\Runs\RunLedger;

/** A new machine with all its disks; one that has its name is set aside once all of the new one is right. */
final class WholeMachine extends NewMachine
{
    protected const STEPS = ['make the machine', NewMachineStep::WRITE, NewMachineStep::CHECK, 'give it its name', NewMachineStep::START];

    public function carryOut(RunLedger $ledger, int $first): PlacementOutcome
    {
        $ledger->step($first, fn (): string => $this->make($this->order->settings));
        $ledger->step($first + 1, fn (): string => $this->write());
        $ledger->step($first + 2, fn (): string => $this->checkAll());
        $ledger->step($first + 3, fn (): string => $this->name());
        $checks = [...self::checksOf($this->brought), $this->settingsCheck()];

        return new PlacementOutcome($this->brought, [...$checks, ...$this->started($ledger, $first + 4)], $this->order->isAside);
    }

    private function name(): string
    {
        $aside = $this->asideName();
        if ($this->recalled('placed') === true) {
            return 'done before';
        }
        $this->setAside();
        if ($this->hypervisor->machine($this->order->machine) === null) {
            $this->hypervisor->rename($this->made(), $this->order->machine);
        }
        $this->remember(placed: true, settings: $this->order->settings->toArray());

        return $this->order->machine.($this->order->isAside ? ", the one before is $aside" : '');
    }

    public function whatWasDone(): string
    {
        $aside = $this->recalled('aside');

        return match (true) {
            $this->recalled('placed') === true => ' The machine stands there, with all its disks right.',
            is_string($aside) => " The machine that stood there may be called $aside now; carry the run on, or put it back.",
            default => ' What stood there is as it was.',
        };
    }
}
