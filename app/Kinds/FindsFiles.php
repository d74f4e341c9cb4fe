<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Workload;
use App\Trees\Catalog\FoundVersion;
use App\Trees\Catalog\SearchQuery;
use Closure;
use InvalidArgumentException;

/** The terminal of a kind in whose points files can be looked for: its takes() name "find". */
interface FindsFiles extends Terminal
{
    /**
     * @param  Closure(string): void  $told  how far it is
     * @param  list<string>  $notes  gets what else is to be known of what was found
     * @return list<FoundVersion> at most so many
     *
     * @throws InvalidArgumentException|Refusal
     */
    public function find(Workload $workload, SearchQuery $query, int $most, Closure $told, array &$notes): array;
}
