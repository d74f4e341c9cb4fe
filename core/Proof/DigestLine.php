<?php

declare(strict_types=1);

namespace Kaiseki\Core\Proof;

/** Lines that b2sum --length=256 --check reads (GNU coreutils manual, "md5sum invocation", for the escapes). */
final class DigestLine
{
    /** @param  string  $digest 32 bytes */
    public static function of(string $digest, string $path): string
    {
        $escaped = strtr($path, ['\\' => '\\\\', "\n" => '\n', "\r" => '\r']);

        return ($escaped === $path ? '' : '\\').bin2hex($digest).'  '.$escaped."\n";
    }
}
