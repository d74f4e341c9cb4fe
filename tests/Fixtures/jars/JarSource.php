<?php

declare(strict_types=1);

namespace Outside\Jars;

use App\Kinds\MakingOrder;
use App\Kinds\Source;
use App\Kinds\SourcePlace;
use App\Models\BackupSet;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;

final class JarSource implements Source
{
    public function levels(): array
    {
        return ['full' => 'full'];
    }

    public function makes(Level $level): bool
    {
        return $level->isFull();
    }

    public function usualTimes(): array
    {
        return ['0 4 * * *=full'];
    }

    public function isKnown(): bool
    {
        return false;
    }

    public function isGone(): bool
    {
        return false;
    }

    public function place(): ?SourcePlace
    {
        return null;
    }

    public function make(MakingOrder $order): BackupSet
    {
        throw new InvalidArgumentException('Jars are filled elsewhere.');
    }

    public function levelOfPresent(): string
    {
        return 'full';
    }
}
