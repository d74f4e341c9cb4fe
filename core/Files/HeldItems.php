<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** Those that are at hand as a whole. */
final readonly class HeldItems implements OrderItems
{
    /** @param  array<array-key, string>  $items  path => packed version */
    public function __construct(private array $items)
    {
    }

    public function all(): iterable
    {
        return $this->items;
    }

    public function has(string $path): bool
    {
        return isset($this->items[$path]);
    }
}
