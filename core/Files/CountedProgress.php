<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Closure;

/** Tells how far the work is in larger steps. */
final class CountedProgress implements Progress
{
    private const STEP = 200;

    private int $files = 0;

    private int $bytes = 0;

    /** @var Closure(int, int): void */
    private readonly Closure $tell;

    /** @param  callable(int, int): void  $tell */
    public function __construct(callable $tell)
    {
        $this->tell = $tell(...);
    }

    public function advanced(int $files, int $bytes): void
    {
        $this->files += $files;
        $this->bytes += $bytes;
        if ($this->files >= self::STEP || $this->bytes >= 1 << 24) {
            $this->tell();
        }
    }

    public function tell(): void
    {
        ($this->tell)($this->files, $this->bytes);
        $this->files = $this->bytes = 0;
    }
}
