<?php

declare(strict_types=1);

namespace Kaiseki\Core\Doubt;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;

/**
 * Where the life of one file takes a sudden turn: emptied, most of it gone, or what it holds turned into noise. What was
 * before is likely the last good version. The share is common practice, not a rule of any standard.
 */
final readonly class SuddenChange
{
    /** What is left of it at most, to be called most of it gone. */
    private const LEFT = 0.1;

    private function __construct(
        /** Which of the versions is the last good one. */
        public int $good,
        public string $because,
    ) {
    }

    /**
     * The newest sudden change; null if there is none, or if the newest version is again like the one before it.
     *
     * @param  list<Version|null>  $versions  oldest first; null where it was gone for a while
     */
    public static function lastIn(array $versions): ?self
    {
        $newest = count($versions) - 1;
        for ($i = $newest; $i > 0; $i--) {
            $because = self::turn($versions[$i - 1], $versions[$i]);
            if ($because === null) {
                continue;
            }

            return $i < $newest && self::turn($versions[$i - 1], $versions[$newest]) === null ? null : new self($i - 1, $because);
        }

        return null;
    }

    /** In words, if the second cannot well be what the first became in ordinary work. */
    private static function turn(?Version $before, ?Version $after): ?string
    {
        if ($before === null || $before->kind !== EntryKind::File || $before->size <= 0) {
            return null;
        }

        $isNoise = fn (Version $now): bool => ContentTexture::of($now->texture)->isScrambled(ContentTexture::of($before->texture));

        return match (true) {
            $after === null => 'it vanished after that',
            $after->kind !== EntryKind::File => 'something else took its place after that',
            $after->size === 0 => 'it was empty after that',
            $after->size < 0 => 'what came after it is in no archive that can be read',
            $isNoise($after) => 'what it held turned into noise after that',
            $after->size <= self::LEFT * $before->size => 'most of it was gone after that',
            default => null,
        };
    }
}
