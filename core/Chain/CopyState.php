<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

enum CopyState: string
{
    /** There, and never found wrong. */
    case Ok = 'ok';
    /** Read whole and compared with what it should be. */
    case Checked = 'checked';
    /** On a shelf: a person must fetch it. */
    case Offline = 'offline';
    case Missing = 'missing';
    case Damaged = 'damaged';

    public function isReadable(): bool
    {
        return $this !== self::Missing && $this !== self::Damaged;
    }
}
