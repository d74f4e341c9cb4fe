<?php

declare(strict_types=1);

namespace App\View;

use App\Models\Workload;
use App\Trees\Catalog\FoundVersion;

/** One path that a search found, with those of its versions that fit. */
final class SearchHit
{
    public int $versions = 1;

    public function __construct(
        public readonly Workload $workload,
        /** The newest that fits. */
        public readonly FoundVersion $newest,
        /** Since when something that fits was there. */
        public int $first,
        /** The line in which the words stand. */
        public readonly ?string $line = null,
    ) {
    }

    /**
     * @param  list<FoundVersion>  $versions
     * @param  callable(FoundVersion): (string|null)  $line
     * @return list<self> by path
     */
    public static function group(Workload $workload, array $versions, callable $line): array
    {
        $hits = [];
        foreach ($versions as $version) {
            $hit = $hits[$version->path] ?? null;
            if ($hit === null) {
                $hits[$version->path] = new self($workload, $version, $version->first, $line($version));

                continue;
            }
            $hit->versions++;
            $hit->first = min($hit->first, $version->first);
        }

        return array_values($hits);
    }
}
