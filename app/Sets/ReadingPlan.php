<?php

declare(strict_types=1);

namespace App\Sets;

use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\ReadingList;
use Kaiseki\Core\Estimate\RestoreEstimate;

/** What is read for an order, from which copies, and what it would take with others. */
interface ReadingPlan
{
    public function list(): ReadingList;

    public function estimate(): RestoreEstimate;

    /** What the same would take with other copies; null if something that is needed has none that may be read. */
    public function estimateWith(CopyRule $rule): ?RestoreEstimate;

    /** @return array<string, int> store => how many of the sets that are needed have a copy there that can be read */
    public function copiesByStore(): array;

    public function setsNeeded(): int;

    /** @return list<string> cartridges in the order of loading */
    public function media(): array;
}
