<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Models\BackupSet;
use App\Sets\Points;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Intake\KnownLists;
use App\Trees\Places\BestTree;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\Preview;
use Kaiseki\Core\Files\RestoreOrder;

/** A plan with all that is in it, entry by entry: what a preview compares and a run carries out. */
final readonly class PlannedOrder
{
    private function __construct(
        public RestoreOrder $order,
        /** @var array<array-key, string> path in the point => packed version */
        public array $items,
        /** What comes from other points than the order's own. */
        public ?BestTree $best,
    ) {
    }

    /** The same under another name. */
    public function named(string $key): self
    {
        return new self(new RestoreOrder(...['key' => $key] + get_object_vars($this->order)), $this->items, $this->best);
    }

    /** @param  string  $key  names the staging folder and the set-aside */
    public static function of(RestorePlan $plan, BackupSet $point, Points $points, string $key): self
    {
        $items = $plan->permissionsOnly ? [] : self::foldersAbove($plan->paths, $point);
        foreach ((new CatalogReader)->entriesBelow($point, $plan->paths) as $path => $packed) {
            $items[$path] = $packed;
        }
        $best =
            $plan->acrossPoints === ''
                ? null
                : BestTree::of($points, $points->sets[$point->id], $plan->paths, $plan->acrossPoints === 'clear');
        $items = $best === null ? $items : $best->applyTo($items, $points);
        if ($plan->targetIsNew && ! $plan->inPlace && ($items[''] ?? '') !== '') {
            // a folder of its own is nobody else's
            $items[''] = Version::unpack($items[''])->narrowedTo(0700)->pack();
        }
        $placed = $plan->renameTo === '' ? $items : RestoreOrder::renamed($items, $plan->paths[0], $plan->renameTo);
        $placed = $plan->flat ? RestoreOrder::flatten($placed) : $placed;

        return new self(self::order($plan, $placed, $key, $point, $points), $items, $best);
    }

    /** @param  array<array-key, string>  $placed  path below the target => packed version */
    private static function order(RestorePlan $plan, array $placed, string $key, BackupSet $point, Points $points): RestoreOrder
    {
        return new RestoreOrder(
            $key,
            $placed,
            $plan->target,
            $plan->conflict,
            $plan->date,
            $plan->keepSetId,
            $plan->targetIsNew && ! $plan->flat && in_array('', $plan->paths, true),
            $plan->conflictIn,
            $plan->permissionsOnly,
            ! $plan->permissionsOnly || KnownLists::at($points, $point),
        );
    }

    /**
     * What a plan would do to its target, without holding all that is in it where that can be told path by path.
     *
     * @param  int  $digestBytes  see Preview
     */
    public static function preview(RestorePlan $plan, BackupSet $point, Points $points, int $digestBytes): Preview
    {
        $isAsInPoint = $plan->acrossPoints === '' && $plan->renameTo === '' && ! $plan->flat;
        $look = $plan->look();

        return $isAsInPoint
            ? new Preview(
                self::order($plan, [], 'preview', $point, $points),
                $look,
                $digestBytes,
                new CatalogItems($point, $plan->paths, ! $plan->permissionsOnly),
            )
            : new Preview(self::of($plan, $point, $points, 'preview')->order, $look, $digestBytes);
    }

    /**
     * @param  list<string>  $paths
     * @return array<array-key, string> the folders above the paths, the outermost first
     */
    public static function foldersAbove(array $paths, BackupSet $point): array
    {
        $reader = new CatalogReader;
        $above = [];
        foreach (EntryPath::outermost($paths) as $path) {
            $folders = [];
            for ([$folder] = EntryPath::split($path); $folder !== ''; [$folder] = EntryPath::split($folder)) {
                $folders[] = $folder;
            }
            foreach (array_reverse($folders) as $folder) {
                $above[$folder] ??= $reader->at($point, $folder) ?? '';
            }
        }

        return array_filter($above, fn (string $packed): bool => $packed !== '' && $packed[0] === 'd');
    }
}
