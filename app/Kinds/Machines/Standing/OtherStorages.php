<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Sets\Points;
use App\Words;
use Kaiseki\Core\Hypervisor\HostRoom;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\UnableToRead;

/** Which disks of a machine that stands come to another storage than the one they lie on, as it is there now. */
final readonly class OtherStorages
{
    private function __construct(private Standing $standing, private HostRoom $room, private MachineSeen $machine)
    {
    }

    /**
     * @return array<string, string> disk => storage
     *
     * @throws CannotBring if that cannot be, with what to do about it
     */
    public static function of(Standing $standing, SettleWish $wish): array
    {
        if ($wish->storages === [] && $wish->storage === '') {
            return [];
        }
        $name = $standing->hypervisor->name;
        try {
            $hypervisor = $standing->hypervisor->open();
            $machine = $hypervisor->machine($standing->machine)
                ?? throw CannotBring::because("There is no machine {$standing->machine} at $name any more.");

            return (new self($standing, $hypervisor->room(), $machine))->chosen($wish);
        } catch (HypervisorFailure|UnableToRead $failure) {
            throw CannotBring::because("What there is room for at $name is not known: {$failure->getMessage()}.");
        }
    }

    /** @return array<string, string> */
    private function chosen(SettleWish $wish): array
    {
        $disks = $this->machine->settings->diskNames();
        foreach (array_diff(array_keys($wish->storages), $disks) as $unknown) {
            throw CannotBring::because("It has no disk $unknown: there are ".implode(', ', $disks).'.');
        }
        $chosen = [];
        foreach ($disks as $disk) {
            $storage = $wish->storages[$disk] ?? $wish->storage;
            if ($storage !== '' && $storage !== $this->machine->storages[$disk]) {
                $chosen[$disk] = $storage;
            }
        }
        $this->refuseUnfit($chosen);

        return $chosen;
    }

    /** @param  array<string, string>  $chosen */
    private function refuseUnfit(array $chosen): void
    {
        $name = $this->standing->hypervisor->name;
        $needed = $this->needs($chosen);
        foreach (array_unique($chosen) as $storage) {
            $there = $this->room->storage($storage) ?? throw CannotBring::because("$name has no storage $storage: there are ".
                implode(', ', array_column($this->room->storages, 'name')).'.');
            $needed[$storage] <= $there->free || throw CannotBring::because("The storage $storage of $name has ".
                Words::size($there->free).' free, with all that is there now; up to '.Words::size($needed[$storage]).' are needed.');
        }
    }

    /**
     * What the point holds, and what the machine has written itself.
     *
     * @param  array<string, string>  $chosen
     * @return array<string, int> storage => bytes at most
     */
    private function needs(array $chosen): array
    {
        $run = $this->standing->run;
        $order = PlacementOrder::fromArray($run->plan);
        $points = new Points($run->workload);
        $bytes = (new PlannedDisks($points, $points->sets[$run->set_id], $order->disks, $order->copies))->bytes();
        $needs = [];
        foreach ($chosen as $disk => $storage) {
            $size = (int) $this->machine->settings->disk($disk)?->size;
            $needs[$storage] = ($needs[$storage] ?? 0) + min($size, ($bytes[$disk] ?? $size) + ($this->machine->held[$disk] ?? 0));
        }

        return $needs;
    }
}
