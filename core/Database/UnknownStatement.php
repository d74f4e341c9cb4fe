<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Kaiseki\Core\Catalog\Shown;
use RuntimeException;

/** Among what should be rows stands something else: it is not passed on to a server that others use. */
final class UnknownStatement extends RuntimeException
{
    private const SHOWN = 120;

    /** @param  string  $statement  as it stands there */
    public static function found(string $statement): self
    {
        return new self('Among the rows stands what is no row: '.Shown::name(mb_scrub(mb_strcut(trim($statement), 0, self::SHOWN))));
    }
}
