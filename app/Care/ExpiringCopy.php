<?php

declare(strict_types=1);

namespace App\Care;

use Carbon\CarbonImmutable;

/** A copy that the rules of its workload do not keep. */
final readonly class ExpiringCopy
{
    /**
     * @param  string  $set  the name of its set
     * @param  string  $store  the name of the store that it lies on
     * @param  int  $bytes  that become free; none of a cartridge
     * @param  string  $level  of its set, in words
     * @param  CarbonImmutable  $at  when its set was captured
     */
    public function __construct(
        public string $set,
        public string $store,
        public int $bytes,
        public string $level,
        public CarbonImmutable $at,
    ) {
    }
}
