<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Store;
use Closure;

/** A workload's folder on a store of ours, of which the sets are to be taken in again. */
final readonly class RebuildOrder
{
    /**
     * @param  string  $workload  its name, which is the folder's too
     * @param  bool  $readArchives  manifests are not believed
     * @param  Closure(string): void  $progress  told the set in hand
     */
    public function __construct(public Store $store, public string $workload, public bool $readArchives, public Closure $progress)
    {
    }

    public function folder(): string
    {
        return "{$this->store->root}/{$this->workload}";
    }
}
