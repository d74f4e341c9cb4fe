<?php

declare(strict_types=1);

namespace App\Models;

/** What people may do beside what their role lets them, by name: an administrator says who. */
enum Duty: string
{
    /** Searches in behalf of a court or a lawyer, of which the originals leave the house: by two people who both have it. */
    case Law = 'law';

    /** In words, after "may". */
    public function words(): string
    {
        return match ($this) {
            self::Law => 'search for the law',
        };
    }
}
