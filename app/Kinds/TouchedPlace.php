<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Target;
use App\Models\Workload;

/** One place that an order would write to: a folder of a host, schemas of a server. */
final readonly class TouchedPlace
{
    /**
     * @param  string  $in  the place itself, in words: "that folder"
     * @param  bool  $replaces  whether what is there may be replaced or deleted, and not only added to
     * @param  list<Workload>  $originals  those whose original lies there
     * @param  Target|null  $on  what it is a part of; null for a folder of this machine that belongs to no host
     * @param  bool  $isShared  whether who owns a part of it may write to all of it
     */
    public function __construct(
        public string $in,
        public bool $replaces,
        public array $originals,
        public ?Target $on,
        public bool $isShared = false,
    ) {
    }
}
