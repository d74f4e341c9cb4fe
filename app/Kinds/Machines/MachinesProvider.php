<?php

declare(strict_types=1);

namespace App\Kinds\Machines;

use App\Kinds\KindProvider;

/** What machines need of the application. */
final class MachinesProvider extends KindProvider
{
    protected function folder(): string
    {
        return __DIR__;
    }

    protected function kind(): string
    {
        return Machines::NAME;
    }
}
