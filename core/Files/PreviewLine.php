<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

final readonly class PreviewLine
{
    public function __construct(
        /** Below the target. */
        public string $path,
        public Deed $deed,
        public string $because = '',
        public bool $isFolder = false,
        /** Bytes that come back. */
        public int $bytes = 0,
        /** What stands there now; null if nothing does, or if it was not looked at. */
        public ?Status $present = null,
        /** Whether what stands there changed later than what comes back. */
        public bool $presentIsNewer = false,
        /** The program that has it open for writing. */
        public ?string $openIn = null,
    ) {
    }
}
