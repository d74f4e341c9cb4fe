<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Dav;

use Kaiseki\Core\Mail\ItemSort;

/** A calendar, or a book of contacts, on a server. */
final readonly class DavCollection
{
    public function __construct(
        /** Its path, percent-encoded, with a slash at its end. */
        public string $href,
        /** As people call it; '' where it has no name. */
        public string $title,
        /** Appointment for any calendar, or Contact. */
        public ItemSort $holds,
        /** @var list<string> of VEVENT, VTODO, VJOURNAL; none where it does not say */
        public array $components,
    ) {
    }

    /** The last part of its path, which is its name where it lies. */
    public function name(): string
    {
        return rawurldecode(basename($this->href));
    }
}
