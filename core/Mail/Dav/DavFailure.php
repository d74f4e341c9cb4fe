<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Dav;

use Kaiseki\Core\Catalog\Shown;
use RuntimeException;

/** A server of calendars and contacts refused something, or what it said could not be understood. */
final class DavFailure extends RuntimeException
{
    /**
     * @param  int  $status  of HTTP; 0 where there was no answer
     * @param  bool  $isLost  whether it may be there again in a moment
     */
    private function __construct(string $message, public readonly int $status = 0, public readonly bool $isLost = false)
    {
        parent::__construct($message);
    }

    public static function refused(string $what, int $status, string $body): self
    {
        $because = Shown::name(mb_strcut(trim(strip_tags(mb_scrub($body))), 0, 200));

        return new self("The server refused $what: HTTP $status".($because === '' ? '' : ", $because"), $status, $status >= 500);
    }

    public static function unreachable(string $where, string $because): self
    {
        return new self("The server at $where does not answer: ".Shown::name(mb_strcut($because, 0, 300)).'.', 0, true);
    }

    public static function unclear(string $what): self
    {
        return new self("What the server says cannot be understood: $what.");
    }
}
