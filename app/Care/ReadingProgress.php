<?php

declare(strict_types=1);

namespace App\Care;

/** How far the copies of a workload are that are being read back. */
final readonly class ReadingProgress
{
    public function __construct(public int $done, public int $all, public int $wrong)
    {
    }
}
