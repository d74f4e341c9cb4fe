<?php

declare(strict_types=1);

namespace App\Activity;

use App\Words;

/** What can be done to an estate. */
enum ActivitySort: string
{
    case Made = 'made';
    case Restored = 'restored';
    case Checked = 'checked';
    case Mended = 'mended';
    case Expired = 'expired';

    public function words(): string
    {
        return match ($this) {
            self::Made => 'sets made',
            self::Restored => 'restored',
            self::Checked => 'copies read back',
            self::Mended => 'copies mended',
            self::Expired => 'expired',
        };
    }

    /** So many of what is counted of it. */
    public function count(int $things): string
    {
        return match ($this) {
            self::Made => Words::count($things, 'entry', 'entries'),
            self::Restored => Words::count($things, 'file'),
            self::Checked, self::Mended, self::Expired => Words::count($things, 'copy', 'copies'),
        };
    }
}
