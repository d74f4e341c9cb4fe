<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

/** Digests as they stand in a statement: in figures, since hundreds of them at a time would be more parameters than it is worth. */
final class DigestList
{
    /** @param  list<string>  $digests  bytes */
    public static function sql(array $digests): string
    {
        return implode(',', array_map(self::one(...), $digests));
    }

    public static function one(string $digest): string
    {
        return "x'".bin2hex($digest)."'";
    }
}
