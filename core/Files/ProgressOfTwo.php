<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Files\Internal\SecondProcess;

/** That of this process and of a second one, as one. */
final class ProgressOfTwo implements Progress
{
    /** How often the second one is listened to, in things that this one did. */
    private const OFTEN = 100;

    private int $since = 0;

    public function __construct(private readonly Progress $progress, private readonly SecondProcess $second)
    {
    }

    public function advanced(int $files, int $bytes): void
    {
        if (++$this->since >= self::OFTEN) {
            $this->since = 0;
            [$more, $moreBytes] = $this->second->howFar();
            $files += $more;
            $bytes += $moreBytes;
        }
        $this->progress->advanced($files, $bytes);
    }
}
