<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

/** How a machine is brought back at a hypervisor. */
enum MachineWay: string
{
    /** A new machine with all its disks; one that had its name is set aside. */
    case Whole = 'whole';

    /** A new machine that runs off the sets of the point at once, and is settled later, or dropped. */
    case StandUp = 'stand-up';

    /** Some disks of a machine that is there; those it had are set aside. */
    case Disks = 'disks';

    /** Of a machine that is there and off, only the blocks that are not as they were. */
    case Rollback = 'rollback';

    /** Only how a machine that is there is configured. */
    case Configuration = 'configuration';

    public function words(): string
    {
        return match ($this) {
            self::Whole => 'the whole machine, new',
            self::StandUp => 'stood up on its sets, settled later',
            self::Disks => 'only some of its disks',
            self::Rollback => 'only the blocks that changed',
            self::Configuration => 'only its configuration',
        };
    }

    public function isThere(): bool
    {
        return ! $this->isNew();
    }

    /** Whether a machine is made that was not there. */
    public function isNew(): bool
    {
        return $this === self::Whole || $this === self::StandUp;
    }

    public function needsDisks(): bool
    {
        return $this !== self::Configuration;
    }
}
