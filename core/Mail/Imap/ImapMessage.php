<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Imap;

/** A message as a server has it. */
final readonly class ImapMessage
{
    /** @param  list<string>  $flags  without \Recent */
    public function __construct(
        public int $uid,
        public array $flags,
        /** Seconds since 1970. */
        public int $receivedAt,
        public int $size,
        /** Without its angle brackets; '' if it has none. */
        public string $messageId,
    ) {
    }
}
