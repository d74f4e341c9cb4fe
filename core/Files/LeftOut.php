<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** Something of the selection that did not come back. */
final readonly class LeftOut
{
    public function __construct(
        public string $path,
        public string $because,
        /** Whether it was wanted and could not be given back; false where it was left out by design or by the rule. */
        public bool $isLoss,
    ) {
    }

    /**
     * @param  list<self>  $some
     * @return list<array{path: string, because: string}> as outcomes keep them where none of it is a loss, in UTF-8
     */
    public static function kept(array $some): array
    {
        return array_map(fn (self $one): array => ['path' => mb_scrub($one->path), 'because' => $one->because], $some);
    }
}
