<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** Something that came with a message. */
final readonly class Attachment
{
    public function __construct(
        /** As it was named by who sent it, without control characters; it is no path. */
        public string $name,
        public string $type,
        public int $size,
        /** By which the HTML of the message names it; '' if it does not. */
        public string $contentId,
        public MessagePart $part,
    ) {
    }
}
