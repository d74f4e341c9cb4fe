<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

final readonly class PassedOver
{
    public function __construct(public BackupSet $set, public string $because)
    {
    }
}
