<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** Where one message stands in an mbox. */
final readonly class MboxMessage
{
    public function __construct(
        /** Of its first byte, behind the line that parts it from the one before. */
        public int $offset,
        /** Bytes as they are stored, without the empty line behind it. */
        public int $length,
        /** When it was received by that line, seconds since 1970; null if it does not say. */
        public ?int $receivedAt,
    ) {
    }
}
