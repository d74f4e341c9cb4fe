<?php

declare(strict_types=1);

namespace Kaiseki\Core\Agent;

use Kaiseki\Core\Files\Status;

/** Something that an agent found on its machine. */
final readonly class ListedEntry
{
    /** @param  int  $number  its place in the list, from 1 on: by that it is asked for */
    public function __construct(
        public int $number,
        public Status $status,
        public string $link,
        public string $uname,
        public string $gname,
    ) {
    }

    /** Whether it is a file under more than one name, and by what all of them are told. */
    public function linked(): ?string
    {
        return $this->status->links > 1 ? "{$this->status->device}:{$this->status->inode}" : null;
    }
}
