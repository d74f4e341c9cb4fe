<?php

declare(strict_types=1);

namespace App\Trees\Making;

use App\Hosts\Hosts;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Protect\Clock;
use Kaiseki\Core\Protect\SystemClock;
use Kaiseki\StandIns\FileHost;

/** A folder of this machine. */
final class FolderOriginal implements Original
{
    private ?Look $opened = null;

    public function __construct(private readonly string $folder)
    {
    }

    public function clock(): Clock
    {
        return FileHost::of($this->folder) ?? new SystemClock;
    }

    public function besideIt(): string
    {
        return dirname($this->folder);
    }

    public function reach(): void
    {
        $this->opened = Hosts::openOriginal($this->folder);
    }

    public function open(): Look
    {
        return $this->opened ?? Hosts::openOriginal($this->folder);
    }

    public function remarks(): array
    {
        return [];
    }

    public function commands(): array
    {
        return [];
    }

    public function close(): void
    {
    }
}
