<?php

declare(strict_types=1);

namespace App\View;

use App\Models\CartridgeCall;
use App\Models\Store;
use Kaiseki\Core\Tape\Cartridge;

/** A cartridge of a store, and whether somebody was asked to fetch it. */
final readonly class CartridgeLine
{
    /**
     * @param  int  $sets  that have something on it
     */
    public function __construct(public Store $store, public Cartridge $cartridge, public int $sets, public ?CartridgeCall $call)
    {
    }
}
