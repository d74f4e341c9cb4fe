<?php

declare(strict_types=1);

namespace App\Care;

use App\Instance;
use App\Kinds\BringsOthers;
use App\Kinds\Kinds;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\Workload;
use App\Runs\ProofKey;
use App\Sets\CopyOutline;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Stores\OpenStores;
use App\Stores\UnableToStore;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Chain\Chain;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Proof\DigestLine;
use Symfony\Component\Process\Process;

/**
 * What must be there when the desk is not: on each store of ours, in the folder night-kit, a sheet of commands for each
 * workload's newest good point, the catalog, and a checker. None of it needs more than sh, tar, gzip and b2sum.
 */
final class NightKit
{
    public const FOLDER = 'night-kit';

    private readonly OpenStores $stores;

    public function __construct()
    {
        $this->stores = new OpenStores;
    }

    /** @return list<string> the stores that hold it now */
    public function write(): array
    {
        $written = [];
        $build = Instance::folder('tmp').'/night-kit-'.getmypid();
        (new Process(['rm', '-rf', '--', $build]))->mustRun();
        try {
            mkdir("$build/catalog", 0700, true);
            (new CatalogExport)->write("$build/catalog");
            foreach ($this->stores->all()->filter(fn (Store $store): bool => ! $store->read_only && $store->kind === 'folder') as $store) {
                if ($this->stores->of($store)->silence(true) === null) {
                    $this->writeTo($store, $build);
                    $written[] = $store->name;
                }
            }
        } catch (UnableToStore $unable) {
            TrailEntry::add("The night kit could not be written: {$unable->getMessage()}", null, null);
        } finally {
            (new Process(['rm', '-rf', '--', $build]))->mustRun();
        }

        return $written;
    }

    /** The new one takes the place of the old one when all of it is there. */
    private function writeTo(Store $store, string $build): void
    {
        $final = "{$store->root}/".self::FOLDER;
        $new = "$final.new";
        (new Process(['rm', '-rf', '--', $new]))->mustRun();
        $process = new Process(['cp', '-R', '--', $build, $new]);
        if ($process->run() !== 0) {
            (new Process(['rm', '-rf', '--', $new]))->mustRun();
            throw UnableToStore::because("on {$store->name}: ".trim($process->getErrorOutput()));
        }
        $archives = [];
        $told = [];
        foreach (Workload::query()->orderBy('name')->get() as $workload) {
            Kinds::goOn($workload, 'Writing the night kit', function () use ($workload, $store, $new, &$archives, &$told): void {
                $points = new Points($workload, $this->stores);
                foreach ($points->sets as $set) {
                    foreach ($set->copies as $copy) {
                        if ($copy->store->id === $store->id && $copy->state->isReadable()) {
                            $archives[] = [$set->id, $copy->part, $copy->path];
                        }
                    }
                }
                $told[] = $this->writeSheet($workload, $points, $store, $new);
            });
        }
        $list = '';
        $digests = self::digests(array_values(array_unique(array_column($archives, 0))));
        foreach ($archives as [$id, $part, $path]) {
            $digest = $digests["$id:$part"] ?? null;
            $list .= $digest === null ? '' : DigestLine::of((string) hex2bin($digest), "../$path");
        }
        $files = [
            'archives.b2sum' => $list,
            'check.sh' => self::checker(),
            ProofKey::FILE => ProofKey::text(),
            'READ-ME.txt' => self::readMe($store, array_values(array_filter($told))),
        ];
        foreach ($files as $name => $content) {
            if (@file_put_contents("$new/$name", $content) !== strlen($content)) {
                throw UnableToStore::because("on {$store->name}: is the disk full?");
            }
        }
        if (is_dir($final)) {
            (new Process(['rm', '-rf', '--', "$final.old"]))->mustRun();
            rename($final, "$final.old");
        }
        rename($new, $final);
        (new Process(['rm', '-rf', '--', "$final.old"]))->mustRun();
    }

    /** @return string|null one line about it for the READ-ME; null if the workload has nothing here */
    private function writeSheet(Workload $workload, Points $points, Store $store, string $folder): ?string
    {
        $point = $this->newestHere($points, $store);
        if ($point === null) {
            return $points->sets === [] ? null : "{$workload->name}: no good point of it lies whole on this store.";
        }
        [$set, $paths] = $point;

        $others = array_map(
            fn (BringsOthers $kind): ?string => $kind->writeNightSheet($points, $set, $paths, $folder),
            Kinds::bringing($workload),
        );

        return implode("\n", [$points->judge->writeNightSheet($set, $paths, $folder), ...array_filter($others)]);
    }

    /**
     * @param  list<int>  $sets  ids
     * @return array<string, string> SET:PART => its digest, hex, where it is known
     */
    private static function digests(array $sets): array
    {
        $digests = [];
        foreach (DB::table('sets')->whereIn('id', $sets)->whereNotNull('digest')->pluck('digest', 'id') as $id => $digest) {
            $digests["$id:0"] = $digest;
        }
        foreach (DB::table('set_parts')->whereIn('set_id', $sets)->whereNotNull('digest')->get() as $row) {
            $digests["{$row->set_id}:{$row->number}"] = $row->digest;
        }

        return $digests;
    }

    /**
     * @return array{SetOutline, list<string>}|null the newest good point whose whole chain can be read here, and where its archives lie,
     *     the first first
     */
    private function newestHere(Points $points, Store $store): ?array
    {
        $finder = $points->finder();
        foreach (array_reverse($points->sets) as $set) {
            $chain = $points->graph->chainOf($set->name);
            if (
                ! ($chain instanceof Chain) ||
                $finder->blocks($set->set, new Demands) !== null ||
                $set->set->capturedAt->isAfter(Instant::of(now()->addDay()))
            ) {
                continue;
            }
            $paths = [];
            foreach ($chain->sets as $piece) {
                $outline = $points->set($piece->id);
                if ($outline?->isReadableOn($store->name) !== true) {
                    continue 2;
                }
                $here = array_filter(
                    $outline->copies,
                    fn (CopyOutline $copy): bool => $copy->store->id === $store->id && $copy->state->isReadable(),
                );
                $paths = [...$paths, ...array_values(array_map(fn (CopyOutline $copy): string => $copy->path, $here))];
            }

            return [$set, $paths];
        }

        return null;
    }

    private static function checker(): string
    {
        return <<<'SH'
        #!/bin/sh
        # Checks everything in this store that the night kit knows: each archive against its BLAKE2b-256, each gzip
        # stream by its own checksums, and the export of the catalog. Needs sh, b2sum and gzip.
        cd "$(dirname "$0")" || exit 2
        bad=0
        b2sum --length=256 --quiet --check archives.b2sum || bad=1
        (cd catalog && b2sum --length=256 --quiet --check catalog.b2sum) || bad=1
        find .. -path ../night-kit -prune -o -name '*.gz' -exec \
          sh -c 'gzip --test "$1" || echo "$1: gzip finds it damaged"' sh {} \; 2>&1 | grep . && bad=1
        if [ $bad -eq 0 ]; then echo "All is right."; else echo "Something is wrong: see above." >&2; fi
        exit $bad

        SH;
    }

    /** @param  list<string>  $told */
    private static function readMe(Store $store, array $told): string
    {
        return "The night kit of the store {$store->name}, written ".
            now()->utc()->format('Y-m-d H:i:s').
            " UTC.\n\n".
            "It is for the time when the desk itself is gone. It needs sh, tar, gzip and b2sum.\n\n".
            "  sh check.sh                          checks all archives of this store\n".
            "  sh hand-sheet-NAME.sh EMPTY-FOLDER   restores the newest good point of a workload, and checks it\n".
            "  catalog/                             the catalog: bin/kaiseki catalog import DIR takes it into a new desk,\n".
            "                                       bin/kaiseki catalog rebuild --store=NAME does without it\n".
            '  '.
            ProofKey::FILE.
            "                        the key by which this desk signs its proofs\n\n".
            implode("\n", $told).
            "\n";
    }
}
