<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Imap;

use Kaiseki\Core\Catalog\Shown;
use RuntimeException;

/** A mail server refused something, or what it said could not be understood. */
final class ImapFailure extends RuntimeException
{
    /** @param  string  $reason  the code of its answer, such as OVERQUOTA; '' if it gave none */
    private function __construct(string $message, public readonly string $reason = '', public readonly bool $isLost = false)
    {
        parent::__construct($message);
    }

    public static function refused(string $what, string $answer): self
    {
        $reason = preg_match('/^(?:NO|BAD) \[([A-Z-]+)/', $answer, $m) === 1 ? $m[1] : '';

        return new self("The mail server refused $what: ".Shown::name(mb_strcut($answer, 0, 300)), $reason);
    }

    public static function lost(string $because): self
    {
        return new self("The mail server is not there any more: $because.", '', true);
    }

    public static function unreachable(string $where, string $because): self
    {
        return new self("The mail server at $where does not answer: $because.", '', true);
    }

    public static function unclear(string $what): self
    {
        return new self("What the mail server says cannot be understood: $what.", '', true);
    }
}
