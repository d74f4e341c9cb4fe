<?php

declare(strict_types=1);

namespace App\View;

/** A small drawing of how a figure went: a rate over the last runs, bytes over days. Zero is its ground. */
final readonly class TrendLine
{
    public const WIDTH = 90;

    public const HEIGHT = 18;

    /** @param  list<float|int>  $values  the newest last */
    public function __construct(public array $values)
    {
    }

    /** Of an SVG of that size; '' of less than two. */
    public function path(): string
    {
        if (count($this->values) < 2) {
            return '';
        }
        $most = max($this->values);
        $points = [];
        foreach ($this->values as $i => $value) {
            $points[] =
                round(($i / (count($this->values) - 1)) * self::WIDTH, 1).
                ' '.
                round(self::HEIGHT - 1 - ($most > 0 ? $value / $most : 0) * (self::HEIGHT - 3), 1);
        }

        return 'M'.implode(' L', $points);
    }

    /** In words, of rates in MB/s over as many runs. */
    public function ofRates(): string
    {
        if ($this->values === []) {
            return '';
        }

        return 'The last '.count($this->values).' runs, from '.round(min($this->values), 1).' to '.round(max($this->values), 1).' MB/s';
    }
}
