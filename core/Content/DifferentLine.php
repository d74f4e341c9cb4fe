<?php

declare(strict_types=1);

namespace Kaiseki\Core\Content;

/** One line of a comparison. */
final readonly class DifferentLine
{
    public function __construct(
        /** Its number in the old text; null if it is not in it. */
        public ?int $left,
        public ?int $right,
        public string $text,
        /** Whether lines that are the same were left out before it. */
        public bool $isAfterGap = false,
    ) {
    }

    public function afterGap(): self
    {
        return new self($this->left, $this->right, $this->text, true);
    }

    public function isSame(): bool
    {
        return $this->left !== null && $this->right !== null;
    }
}
