<?php

declare(strict_types=1);

namespace App\Kinds\Files\Terminal;

use App\Models\Workload;
use App\Trees\Catalog\CatalogSearch;
use App\Trees\Catalog\FoundVersion;
use App\Trees\Catalog\SearchQuery;
use App\Trees\Catalog\TextIndex;
use Closure;

/** `find` for files: in the catalog. */
final class FindInCatalog
{
    /**
     * @param  Closure(string): void  $told
     * @return list<FoundVersion>
     */
    public static function versions(Workload $workload, SearchQuery $query, int $most, Closure $told): array
    {
        if ($query->text.$query->author !== '' && TextIndex::isBehind($workload->id)) {
            TextIndex::bringUpToDate($workload, fn (int $done) => $told(number_format($done).' contents looked into'));
        }

        return (new CatalogSearch)->find($workload, $query, $most);
    }
}
