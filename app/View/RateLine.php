<?php

declare(strict_types=1);

namespace App\View;

/** A small drawing of how a rate went over the last runs. */
final class RateLine
{
    public const WIDTH = 90;

    public const HEIGHT = 18;

    /** @param  list<float>  $rates  the newest last */
    public static function path(array $rates): string
    {
        if (count($rates) < 2) {
            return '';
        }
        $most = max($rates);
        $points = [];
        foreach ($rates as $i => $rate) {
            $points[] =
                round(($i / (count($rates) - 1)) * self::WIDTH, 1).
                ' '.
                round(self::HEIGHT - 1 - ($most > 0 ? $rate / $most : 0) * (self::HEIGHT - 3), 1);
        }

        return 'M'.implode(' L', $points);
    }
}
