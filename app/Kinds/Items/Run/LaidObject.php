<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use Kaiseki\Core\Mail\ItemSort;

/** An appointment or a contact that a run laid into a collection of a server. */
final readonly class LaidObject
{
    public function __construct(
        public string $key,
        public string $mailbox,
        /** Path of the collection, and of the object in it, percent-encoded. */
        public string $collection,
        public string $href,
        public ItemSort $sort,
        /** What is there since, see ItemSort::identityOf(). */
        public string $identity,
        /** File beside the journal with what stood there; '' if nothing did. */
        public string $aside,
    ) {
    }
}
