<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Sets\CannotRegister;
use InvalidArgumentException;

/** Takes sets into the catalog that lie on media already. */
interface Intake
{
    /**
     * Registers archives where they lie.
     *
     * @throws InvalidArgumentException|CannotRegister
     */
    public function adopt(AdoptOrder $order): Adopted;

    /** Takes in again what lies in a workload's folder on a store of ours: what of it is of this kind. */
    public function rebuild(RebuildOrder $order): Rebuilt;
}
