<?php

declare(strict_types=1);

namespace App\Kinds;

/** A set that was taken in again from what lies in a store, and by what. */
final readonly class RebuiltSet
{
    public const BY_MANIFEST = 'manifest';

    public const BY_ARCHIVE = 'archive';

    public const KNOWN = 'known';

    /** @param  string  $from  one of the above */
    public function __construct(public string $workload, public string $set, public string $from)
    {
    }
}
