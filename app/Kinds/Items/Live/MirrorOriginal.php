<?php

declare(strict_types=1);

namespace App\Kinds\Items\Live;

use App\Trees\Making\Original;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Protect\Clock;
use Kaiseki\Core\Protect\SystemClock;

/** Mailboxes of a server, as they were read from it a moment ago. */
final readonly class MirrorOriginal implements Original
{
    public function __construct(private Mirror $mirror)
    {
    }

    public function clock(): Clock
    {
        return new SystemClock;
    }

    public function besideIt(): null
    {
        return null;
    }

    public function reach(): void
    {
        $this->mirror->bringUpToDate();
    }

    public function open(): Look
    {
        $this->mirror->folder('');

        return FolderBelow::open($this->mirror->root());
    }

    public function remarks(): array
    {
        return $this->mirror->remarks();
    }

    public function commands(): array
    {
        return [];
    }

    public function close(): void
    {
    }
}
