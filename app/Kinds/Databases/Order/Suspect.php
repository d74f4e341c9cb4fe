<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use Kaiseki\Core\Database\Suspicion;

/** A transaction that likely did it, and why. */
final readonly class Suspect
{
    public function __construct(public LoggedTransaction $transaction, public Suspicion $suspicion)
    {
    }
}
