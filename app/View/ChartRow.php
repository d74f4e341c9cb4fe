<?php

declare(strict_types=1);

namespace App\View;

/** A set of a chart as a row below it. */
final readonly class ChartRow
{
    /**
     * @param  string  $why  why it is in hand, or why not
     */
    public function __construct(public ChartPost $post, public string $why)
    {
    }
}
