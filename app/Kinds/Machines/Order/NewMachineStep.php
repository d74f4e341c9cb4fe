<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

/** Names of the steps of a run whose time tells how fast disks are written and read. */
final class NewMachineStep
{
    public const WRITE = 'write the disks';

    public const CHECK = 'read and check the disks';

    public const START = 'start it';
}
