<?php

declare(strict_types=1);

namespace App\View;

use App\Models\Store;
use Carbon\CarbonImmutable;

/** How far the copies on a store were read back. */
final readonly class StoreReading
{
    /**
     * @param  int  $checked  copies that were found right
     * @param  CarbonImmutable|null  $last  when one was read back last
     */
    public function __construct(public Store $store, public int $copies, public int $checked, public ?CarbonImmutable $last)
    {
    }
}
