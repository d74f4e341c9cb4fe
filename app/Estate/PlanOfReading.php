<?php

declare(strict_types=1);

namespace App\Estate;

use App\Catalog\CatalogReader;
use App\Models\BackupSet;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Chain\CopyChooser;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\ReadingList;
use Kaiseki\Core\Estimate\DurationRange;
use WeakMap;

/** What must be read for a selection at a point: only the bytes that it needs from each set count. */
final readonly class PlanOfReading
{
    private function __construct(
        public ReadingList $list,
        public int $entries,
        public int $files,
        public int $bytes,
        /** Files whose content is nowhere. */
        public int $missing,
        public DurationRange $estimate,
    ) {
    }

    /**
     * @param  list<string>  $paths
     * @param  iterable<string>|null  $entries  packed versions of the selection, where they are at hand
     *
     * @throws CannotPlan if what may be read does not suffice
     */
    public static function for(Points $points, BackupSet $point, array $paths, ?string $site = null, CopyRule $rule = new CopyRule, ?iterable $entries = null): self
    {
        $route = $points->route($site);
        $places = new ContentPlaces($points, $point, $route);
        $needed = [];
        /** @var WeakMap<BackupSet, int> $ids */
        $ids = new WeakMap; // an attribute of a model is dear where it is asked for each file
        $seen = [];
        $count = $files = $bytes = $missing = 0;
        foreach ($entries ?? (new CatalogReader)->entriesBelow($point, $paths) as $packed) {
            $count++;
            if ($packed[0] !== 'f') {
                continue;
            }
            $files++;
            $columns = Version::columns($packed);
            if ($columns['size'] <= 0) {
                $missing += $columns['size'] < 0 ? 1 : 0;

                continue;
            }
            $bytes += $columns['size'];
            $digest = (string) $columns['digest'];
            $short = unpack('J', $digest)[1] ?? 0; // enough of it for an estimate
            if (isset($seen[$short])) {
                continue;
            }
            $seen[$short] = true;
            $set = $places->setOf($digest);
            if ($set === null) {
                $missing++;

                continue;
            }
            $ids[$set] ??= $set->id;
            $needed[$ids[$set]] = ($needed[$ids[$set]] ?? 0) + $columns['size'];
        }
        $pieces = [];
        foreach ($points->sets as $set) {
            $chainSet = $points->graph->set($set->name);
            if (isset($needed[$set->id]) && $chainSet !== null && $chainSet->readableCopies() !== []) {
                $pieces[] = [$chainSet, $needed[$set->id]];
            }
        }
        $list = CopyChooser::choose($pieces, $route, $rule) ?? throw CannotPlan::because('the only readable copies of something that is needed were to be avoided');

        return new self($list, $count, $files, $bytes, $missing, DurationRange::ofRestore($list->totalSeconds, $files, $bytes));
    }
}
