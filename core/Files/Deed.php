<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** What a run would do with one thing, or to one that stands in its target. */
enum Deed: string
{
    case Added = 'added';
    /** What stands there goes to the set-aside. */
    case Replaced = 'replaced';
    /** What stands there gets a dated name. */
    case PresentRenamed = 'present-renamed';
    /** The restored one gets a dated name. */
    case PutBeside = 'beside';
    /** What stands there stays, and gets the permissions of then. */
    case Permitted = 'permissions';
    /** What stands there is the same. */
    case Kept = 'kept';
    /** It does not come back: by the rule, or since it cannot. */
    case Skipped = 'skipped';
    /** It stands in a folder that something comes back to, and is not part of the order. */
    case LeftAlone = 'left-alone';

    /** Those that change what stands there. */
    public const OF_PRESENT = [self::Replaced, self::PresentRenamed, self::Permitted];

    public function words(): string
    {
        return match ($this) {
            self::Added => 'added',
            self::Replaced => 'replaced, the present one set aside',
            self::PresentRenamed => 'the present one renamed',
            self::PutBeside => 'put beside the present one',
            self::Permitted => 'given the permissions of then',
            self::Kept => 'kept: the same already',
            self::Skipped => 'skipped',
            self::LeftAlone => 'left alone',
        };
    }
}
