<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A network card as a machine knew it. */
final readonly class RecordedCard
{
    /** What a kernel takes (net/core/dev.c of Linux, dev_valid_name), and no more than what file names and settings take too. */
    private const NAME = '/^[A-Za-z0-9][A-Za-z0-9._-]{0,14}$/D';

    private const ADDRESS = '/^[0-9a-f]{2}(:[0-9a-f]{2}){5}$/D';

    private function __construct(public string $name, public string $address)
    {
    }

    /** Null of what is none, or has no address of its own. */
    public static function of(string $name, string $address): ?self
    {
        $isCard = preg_match(self::NAME, $name) === 1 && preg_match(self::ADDRESS, $address) === 1 && trim($address, '0:') !== '';

        return $isCard ? new self($name, $address) : null;
    }
}
