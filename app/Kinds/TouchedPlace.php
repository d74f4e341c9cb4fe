<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Workload;

/** One place that an order would write to: a folder of a host, schemas of a server. */
final readonly class TouchedPlace
{
    /**
     * @param  string  $in  the place itself, in words: "that folder"
     * @param  string  $on  what it is a part of: "the host crew", "the server fares-db"
     * @param  bool  $replaces  whether what is there may be replaced or deleted, and not only added to
     * @param  list<Workload>  $originals  those whose original lies there
     * @param  list<Workload>|null  $around  those to whom what it is a part of belongs; null where nobody owns that
     * @param  bool  $isShared  whether who owns a part of it may write to all of it
     */
    public function __construct(
        public string $in,
        public string $on,
        public bool $replaces,
        public array $originals,
        public ?array $around,
        public bool $isShared = false,
    ) {
    }
}
