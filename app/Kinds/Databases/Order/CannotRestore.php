<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Kinds\Refusal;
use RuntimeException;

/** A restore of a database that cannot begin, or had to stop; the message says what to do. */
final class CannotRestore extends RuntimeException implements Refusal
{
    /** Whether a server refused a statement for its length. */
    public bool $isForLength = false;

    public static function because(string $because): self
    {
        return new self($because);
    }

    /** A row is longer, as a statement, than a server takes. */
    public static function tooLong(string $server): self
    {
        $own = new self(
            "$server refused a statement, or closed the connection over it: a row may be longer than it takes in one. Raise that there ".
                'for the time being (SET GLOBAL max_allowed_packet = 1073741824), and run this again.',
        );
        $own->isForLength = true;

        return $own;
    }
}
