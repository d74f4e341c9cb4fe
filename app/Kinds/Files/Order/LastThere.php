<?php

declare(strict_types=1);

namespace App\Kinds\Files\Order;

use App\Sets\SetOutline;

/** A point that has what is not in the one in hand. */
final readonly class LastThere
{
    /**
     * @param  bool  $isLater  whether it lies behind the wanted moment
     */
    public function __construct(public string $path, public SetOutline $set, public bool $isLater)
    {
    }
}
