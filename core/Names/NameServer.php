<?php

declare(strict_types=1);

namespace Kaiseki\Core\Names;

/** The border to who says which address a name leads to. */
interface NameServer
{
    /**
     * What the server of the zone itself says.
     *
     * @throws NameFailure if it does not answer, or a name is none that can be led
     */
    public function addresses(DomainName $name): Addresses;

    /**
     * Has a name lead elsewhere, if it still leads where it is said to: all of it in one step, or nothing.
     *
     * @throws NameFailure if somebody has changed it, or the server refuses
     */
    public function lead(DomainName $name, Addresses $from, Addresses $to): void;
}
