<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** A piece of what was written down in an annex: what its machines sent that nobody there was meant to have. */
final readonly class AnnexRecord
{
    public const MOST_AT_ONCE = 1 << 20;

    /**
     * @param  string  $bytes  of a pcapng file, in which each machine is an interface of its name
     * @param  int  $beyond  packets for which there was no room in it
     */
    public function __construct(public string $bytes, public int $beyond)
    {
    }
}
