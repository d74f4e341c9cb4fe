<?php

declare(strict_types=1);

namespace App\Stores;

use Kaiseki\Core\Chain\CopyState;

/** How a copy is found to be; because says why it is not readable, or what a person must do. */
final readonly class CopyLook
{
    public function __construct(
        public CopyState $state,
        public ?string $because = null,
        /** @var list<string> cartridges on the shelf */ public array $offline = [],
    ) {
    }
}
