<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** What is to be brought back, thing by thing: gone through, and asked whether it has a path; it need not be held all at once. */
interface OrderItems
{
    /** @return iterable<array-key, string> path below the target => packed version, a folder before what is in it */
    public function all(): iterable;

    public function has(string $path): bool;
}
