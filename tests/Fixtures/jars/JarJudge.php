<?php

declare(strict_types=1);

namespace Outside\Jars;

use App\Kinds\Given;
use App\Kinds\Judge;
use App\Kinds\Usability;
use App\Models\BackupSet;
use App\Sets\Points;
use App\Sets\SetOutline;
use Closure;

final readonly class JarJudge implements Judge
{
    public function __construct(private Points $points)
    {
    }

    public function needsConsistency(): bool
    {
        return true;
    }

    public function usability(SetOutline $set): Usability
    {
        $because = $this->points->brokenChain($set);

        return $because === null ? Usability::whole() : Usability::no($because);
    }

    public function hurt(): int
    {
        return count(array_filter($this->points->sets, fn (SetOutline $set): bool => ! $this->usability($set)->isWhole()));
    }

    public function bridged(SetOutline $set): ?SetOutline
    {
        return null;
    }

    public function blockages(?array $wanted): Closure
    {
        return $this->points->brokenChain(...);
    }

    public function doubts(?array $wanted): Closure
    {
        return fn (SetOutline $set): ?string => null;
    }

    public function restoreSeconds(SetOutline $set): ?float
    {
        return 1.0;
    }

    public function gives(BackupSet $set): array
    {
        return [new Given('the whole jar', true, 'with its lid')];
    }

    public function writeNightSheet(SetOutline $point, array $archives, string $folder): ?string
    {
        return 'jars: open them by hand.';
    }
}
