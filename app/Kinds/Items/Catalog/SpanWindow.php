<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Models\BackupSet;

/** Between which points of a history it is asked where items lay: what else is known of them is not read. */
final readonly class SpanWindow
{
    /**
     * @param  int  $from  microseconds since 1970, of a point
     * @param  int  $to  likewise, not before the first
     */
    private function __construct(public int $history, public int $from, public int $to)
    {
    }

    /** @param  int|null  $other  microseconds since 1970, of another point that is asked for too */
    public static function at(BackupSet $point, ?int $other = null): self
    {
        $other ??= $point->instant;

        return new self($point->history_id, min($point->instant, $other), max($point->instant, $other));
    }
}
