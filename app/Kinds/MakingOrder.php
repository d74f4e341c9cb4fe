<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Store;
use Closure;
use Kaiseki\Core\Chain\Level;

/** A set that is to be made. */
final readonly class MakingOrder
{
    /**
     * @param  string|null  $base  the name of the set to reckon against; null: by the rule of the level
     * @param  (Closure(int): void)|null  $progress  told the entries so far
     * @param  bool  $newHistory  the source was rebuilt: nothing builds on what was before
     * @param  list<string>|null  $before  argument list of a command that brings the source to rest
     * @param  list<string>|null  $after  of one that lets it go on; it runs also where the set could not be made
     * @param  int  $limit  seconds for each of them
     * @param  string  $why  it is made, in a few words, where that is not written down yet
     */
    public function __construct(
        public Store $store,
        public Level $level,
        public ?string $base = null,
        public ?Closure $progress = null,
        public bool $newHistory = false,
        public ?array $before = null,
        public ?array $after = null,
        public int $limit = 60,
        public string $why = 'command line',
    ) {
    }
}
