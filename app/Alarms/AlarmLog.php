<?php

declare(strict_types=1);

namespace App\Alarms;

use App\Instance;

/** log/alarms.log, for whatever watches this machine; written also where nobody receives alarms. */
final class AlarmLog
{
    public static function add(string $what): void
    {
        file_put_contents(
            Instance::folder('log').'/alarms.log',
            now()->utc()->format('Y-m-d\TH:i:s\Z').' '.preg_replace('/[\x00-\x1f\x7f]+/', ' ', $what)."\n",
            FILE_APPEND | LOCK_EX,
        );
    }
}
