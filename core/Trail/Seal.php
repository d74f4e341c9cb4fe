<?php

declare(strict_types=1);

namespace Kaiseki\Core\Trail;

use Kaiseki\Core\Proof\CanonicalJson;

/**
 * The chain that makes it seen when an entry of the trail is changed, left out, added or put elsewhere: each seal is the SHA-256
 * (FIPS 180-4) of the seal before it and the entry, so that `printf '%s\n%s' SEAL LINE | sha256sum` gives it too.
 */
final class Seal
{
    /** What stands before the first entry. */
    public const FIRST = '0000000000000000000000000000000000000000000000000000000000000000';

    /**
     * @param  string  $before  64 hexadecimal digits
     * @return string 64 hexadecimal digits
     */
    public static function of(string $before, string $line): string
    {
        return hash('sha256', "$before\n$line");
    }

    /**
     * An entry in its one spelling (JSON Canonicalization Scheme, RFC 8785).
     *
     * @param  array<string, string|int|null>  $entry  in UTF-8
     */
    public static function line(array $entry): string
    {
        return CanonicalJson::encode($entry);
    }
}
