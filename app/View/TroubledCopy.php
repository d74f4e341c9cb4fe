<?php

declare(strict_types=1);

namespace App\View;

use Kaiseki\Core\Chain\CopyState;

/** A copy that cannot be relied on. */
final readonly class TroubledCopy
{
    public function __construct(public string $set, public string $store, public CopyState $state, public ?string $because)
    {
    }
}
