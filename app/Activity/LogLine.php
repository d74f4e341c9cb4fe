<?php

declare(strict_types=1);

namespace App\Activity;

use Carbon\CarbonImmutable;

/** One line of the log of something that was done. */
final readonly class LogLine
{
    public function __construct(
        /** Whether somebody should read it even if they read nothing else. */
        public bool $isWarning,
        public string $words,
        public ?CarbonImmutable $at = null,
    ) {
    }
}
