<?php

declare(strict_types=1);

namespace App\Kinds;

use Closure;

/** A folder of archives that is to be adopted. */
final readonly class AdoptOrder
{
    /**
     * @param  string  $folder  absolute
     * @param  array<string, mixed>  $options  as the kind's terminal described them
     * @param  (Closure(string, int): void)|null  $progress  told the file in hand, and how far it is
     */
    public function __construct(
        public string $folder, public string $workload, public string $site, public array $options = [], public ?Closure $progress = null,
    ) {
    }
}
