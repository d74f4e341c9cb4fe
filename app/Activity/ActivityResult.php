<?php

declare(strict_types=1);

namespace App\Activity;

enum ActivityResult: string
{
    case Right = 'right';
    case Part = 'part';
    case Failed = 'failed';
    case Going = 'going';

    public function words(): string
    {
        return match ($this) {
            self::Right => 'right',
            self::Part => 'not all of it',
            self::Failed => 'failed',
            self::Going => 'at work, or waiting',
        };
    }
}
