<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

final class SetCounts
{
    /** Entries of the tree. */
    public int $entries = 0;

    /** Those whose content is in this archive. */
    public int $stored = 0;

    /** @var list<string> */
    public array $remarks = [];
}
