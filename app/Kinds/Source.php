<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\BackupSet;
use App\Sets\CannotRegister;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;

/** The live original of a workload. */
interface Source
{
    /** @return array<string, string> levels of the sets that are made of it => in words */
    public function levels(): array;

    /** Whether a set of a level can be made of it at all, also one that is not offered. */
    public function makes(Level $level): bool;

    /** @return list<string> when which sets would usually be made, as in crontab(5): "30 1 * * 0=full" */
    public function usualTimes(): array;

    /** Whether it is known where it is, so that sets can be made of it. */
    public function isKnown(): bool;

    /** Whether it was there and is not any more. */
    public function isGone(): bool;

    /** Null if it is not known. */
    public function place(): ?SourcePlace;

    /**
     * @throws InvalidArgumentException if no such set can be made of it
     * @throws CannotRegister if it could not be made now
     */
    public function make(MakingOrder $order): BackupSet;

    /** The set of what is there now that is made before something is put in its place. */
    public function levelOfPresent(): string;
}
