<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Page;

/** A stretch in which a log is missing or cannot be read. */
final readonly class LogGap
{
    public function __construct(public float $from, public float $to, public string $because)
    {
    }
}
