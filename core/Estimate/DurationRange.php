<?php

declare(strict_types=1);

namespace Kaiseki\Core\Estimate;

/** A duration that is a guess, with how far off it may be. */
final readonly class DurationRange
{
    /** What a file costs on a target, whatever its size: common practice puts several thousand small files at about a minute with checks. */
    private const SECONDS_PER_FILE = 0.0005;

    private const TARGET_MB_S = 200.0;

    private function __construct(public float $likely, public float $least, public float $most)
    {
    }

    /** @param  float  $readSeconds by the reading list, set-up included */
    public static function ofRestore(float $readSeconds, int $files, int $bytes): self
    {
        // Reading and writing go on at the same time; then everything is read once more from the target.
        $likely = max($readSeconds, $bytes / (self::TARGET_MB_S * 1e6)) + $files * self::SECONDS_PER_FILE + $bytes / (2 * self::TARGET_MB_S * 1e6) + 0.5;

        return new self($likely, $likely * 0.5, $likely * 2.5);
    }
}
