<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Models\BackupSet;
use App\Sets\CannotPlan;
use App\Sets\Points;
use App\Sets\ReadingOfSets;
use App\Sets\ReadingPlan;
use App\Trees\Catalog\CatalogReader;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Chain\BackupSet as ChainSet;
use Kaiseki\Core\Chain\CopyChooser;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\Reading;
use Kaiseki\Core\Chain\ReadingList;
use Kaiseki\Core\Chain\Route;
use Kaiseki\Core\Estimate\Costs;
use Kaiseki\Core\Estimate\RestoreEstimate;

/** What must be read for a selection at a point: only the bytes that it needs from each set count. */
final readonly class PlanOfReading implements ReadingPlan
{
    private function __construct(
        public ReadingList $list,
        public int $entries,
        public int $files,
        public int $bytes,
        /** Files whose content is nowhere. */
        public int $missing,
        public RestoreEstimate $estimate,
        /** @var list<array{ChainSet, int}> sets, and the bytes that are needed of each */
        private array $pieces,
        private Route $route,
        private Costs $costs,
    ) {
    }

    /**
     * @param  list<string>  $paths
     * @param  iterable<string>|null  $entries  packed versions of the selection, where they are at hand
     *
     * @throws CannotPlan if what may be read does not suffice
     */
    public static function for(
        Points $points,
        BackupSet $point,
        array $paths,
        ?string $site = null,
        CopyRule $rule = new CopyRule,
        ?iterable $entries = null,
    ): self {
        $route = $points->route($site);
        $places = new ContentPlaces($points, $point, $route, null, $rule);
        $anywhere = null;
        $needed = [];
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
                if (! $rule->isNone() && ($anywhere ??= new ContentPlaces($points, $point, $route))->setOf($digest) !== null) {
                    throw CannotPlan::because('the only readable copies of something that is needed were to be avoided');
                }

                continue;
            }
            $needed[$set] = ($needed[$set] ?? 0) + $columns['size'];
        }
        $pieces = [];
        foreach ($points->sets as $set) {
            if (isset($needed[$set->id]) && ($set->isReadable() || $set->isPartlyReadable())) {
                $pieces[] = [$set->forReading(), $needed[$set->id]];
            }
        }
        $list =
            CopyChooser::choose($pieces, $route, $rule) ??
            throw CannotPlan::because('the only readable copies of something that is needed were to be avoided');

        $costs = $points->rates()->costs($points->stores->all()->all(), $site ?? $points->workload->site);

        return new self(
            $list,
            $count,
            $files,
            $bytes,
            $missing,
            RestoreEstimate::of($list, $files, $bytes, $costs),
            $pieces,
            $route,
            $costs,
        );
    }

    /**
     * The same where nothing but permissions comes back: no content is needed, whatever became of it.
     *
     * @param  list<string>  $paths
     */
    public static function ofPermissions(Points $points, BackupSet $point, array $paths): self
    {
        $entries = (function () use ($point, $paths): iterable {
            foreach ((new CatalogReader)->entriesBelow($point, $paths) as $path => $packed) {
                yield $path => Version::withoutContent($packed);
            }
        })();

        return self::for($points, $point, $paths, null, new CopyRule, $entries);
    }

    public function estimateWith(CopyRule $rule): ?RestoreEstimate
    {
        $list = CopyChooser::choose($this->pieces, $this->route, $rule);

        return $list === null ? null : RestoreEstimate::of($list, $this->files, $this->bytes, $this->costs);
    }

    public function copiesByStore(): array
    {
        return ReadingOfSets::countByStore(array_column($this->pieces, 0));
    }

    public function list(): ReadingList
    {
        return $this->list;
    }

    public function estimate(): RestoreEstimate
    {
        return $this->estimate;
    }

    /** @return list<string> FROM>TO of the lanes that something comes over */
    public function lanes(): array
    {
        $lanes = [];
        foreach ($this->list->readings as $reading) {
            $lane = $this->route->laneOf($reading->copy->store);
            if ($lane !== null) {
                $lanes[$lane] = true;
            }
        }

        return array_map(strval(...), array_keys($lanes));
    }

    public function media(): array
    {
        return array_values(
            array_unique(array_merge([], ...array_map(fn (Reading $reading): array => $reading->copy->media, $this->list->readings))),
        );
    }

    public function setsNeeded(): int
    {
        return count($this->pieces);
    }
}
