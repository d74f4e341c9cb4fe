<?php

declare(strict_types=1);

namespace Kaiseki\Core\Packets;

/** One packet of a record. */
final readonly class CapturedPacket
{
    /**
     * @param  string  $sender  name of its interface
     * @param  float  $at  Unix time
     * @param  string  $bytes  its beginning, from the frame's first byte on
     */
    public function __construct(public string $sender, public float $at, public string $bytes)
    {
    }
}
