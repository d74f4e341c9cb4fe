<?php

declare(strict_types=1);

namespace App\Trail;

use RuntimeException;

/** The trail cannot be sent to the syslog server now. */
final class CannotSend extends RuntimeException
{
    public static function noAddress(string $url): self
    {
        return new self("KAISEKI_SYSLOG is udp://HOST, tcp://HOST or tls://HOST, with a port if it is another than the usual: $url");
    }

    public static function silent(string $address, string $why): self
    {
        return new self("The syslog server $address does not take the trail: $why.");
    }
}
