<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

/** The keys of paths and names in the catalog: 63 bits of BLAKE2b. See docs/decisions/0003-catalog-keys.md. */
final class PathKeys
{
    public static function path(int $workload, string $path): int
    {
        return self::key($workload."\0".$path);
    }

    public static function name(string $name): int
    {
        return self::key($name);
    }

    private static function key(string $of): int
    {
        $hash = unpack('J', sodium_crypto_generichash($of, '', 16));
        assert(is_array($hash));

        return $hash[1] & PHP_INT_MAX;
    }
}
