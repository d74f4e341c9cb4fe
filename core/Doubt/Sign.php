<?php

declare(strict_types=1);

namespace Kaiseki\Core\Doubt;

/** Something about a set that speaks for damage in its source, or that is good to know before it is used. */
final readonly class Sign
{
    public function __construct(
        /** One word or two, the same for all signs of the kind. */
        public string $kind,
        /** Whether it raises doubt; else it is only told. */
        public bool $doubts,
        /** A plain sentence with the figures in it. */
        public string $words,
        /** @var array<string, int|float|string> */
        public array $figures = [],
        /** @var array<array-key, string> path => digest of the contents that the doubt is about; none if it is about what is missing */
        public array $contents = [],
    ) {
    }
}
