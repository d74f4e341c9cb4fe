<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** What happens where something stands already. */
enum ConflictRule: string
{
    /** The restored one gets a dated name beside it. */
    case Beside = 'beside';
    /** The present one gets a dated name, the restored one takes its place. */
    case RenamePresent = 'rename-present';
    /** The present one stays, the restored one is left out. */
    case MissingOnly = 'missing-only';
    /** The present one goes to the set-aside, from which it can be put back, unless it is the same. */
    case Replace = 'replace';
    /** The present one goes to the set-aside, also where it is the same. */
    case ReplaceAll = 'replace-all';

    public function words(): string
    {
        return match ($this) {
            self::Beside => 'replacing nothing',
            self::RenamePresent => 'renaming what is there now',
            self::MissingOnly => 'adding only what is missing',
            self::Replace => 'replacing what is different there now',
            self::ReplaceAll => 'replacing all that is there now',
        };
    }

    /** Whether what stands there goes out of the way. */
    public function replaces(): bool
    {
        return $this === self::Replace || $this === self::ReplaceAll;
    }
}
