<?php

declare(strict_types=1);

namespace App\Kinds\Machines;

use App\Kinds\MakingOrder;
use App\Kinds\Source;
use App\Models\BackupSet;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;

/** Of machines only the images that others made are known so far: no set is made of one here. */
final class MachineSource implements Source
{
    public function levels(): array
    {
        return [];
    }

    public function makes(Level $level): bool
    {
        return false;
    }

    public function usualTimes(): array
    {
        return [];
    }

    public function isKnown(): bool
    {
        return false;
    }

    public function isGone(): bool
    {
        return false;
    }

    public function place(): ?array
    {
        return null;
    }

    public function levelOfPresent(): string
    {
        return 'full';
    }

    public function make(MakingOrder $order): BackupSet
    {
        throw new InvalidArgumentException('Sets of machines are adopted: bin/kaiseki adopt FOLDER --as=NAME --kind=machine.');
    }
}
