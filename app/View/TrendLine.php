<?php

declare(strict_types=1);

namespace App\View;

/** A small drawing of how a figure went: a rate over the last runs, bytes over days. Zero is its ground. */
final class TrendLine
{
    public const WIDTH = 90;

    public const HEIGHT = 18;

    /** @param  list<float|int>  $values  the newest last */
    public static function path(array $values): string
    {
        if (count($values) < 2) {
            return '';
        }
        $most = max($values);
        $points = [];
        foreach ($values as $i => $value) {
            $points[] =
                round(($i / (count($values) - 1)) * self::WIDTH, 1).
                ' '.
                round(self::HEIGHT - 1 - ($most > 0 ? $value / $most : 0) * (self::HEIGHT - 3), 1);
        }

        return 'M'.implode(' L', $points);
    }
}
