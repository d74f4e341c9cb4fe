<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Disks\DiskFacts;
use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Sets\CopyOutline;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Sets\SetPart;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Proof\HandSheet;

/**
 * The same images as commands for a person. qemu-img is told every image of the chain, so that no name in them is followed; since it
 * says of a damaged image that all went well, the digest of each file is compared first. It needs sh, b2sum and qemu-img.
 */
final readonly class ImageHandSheet
{
    /**
     * @param  string  $below  stands before paths below the store, as a shell takes it; '' for whole paths
     * @param  list<string>|null  $disks  null for all
     */
    public static function script(Points $points, SetOutline $point, string $below = '', ?array $disks = null): string
    {
        return implode("\n", [...self::lines($points, $point, $below, $disks)])."\n";
    }

    /**
     * @param  list<string>|null  $disks
     * @return iterable<string>
     */
    private static function lines(Points $points, SetOutline $point, string $below, ?array $disks): iterable
    {
        $name = Shown::name($points->workload->name);
        yield '#!/bin/sh';
        yield "# The disks of $name as of {$point->name} by hand, as raw images: sh THIS-SHEET EMPTY-FOLDER";
        yield 'set -eu';
        yield '[ $# -eq 1 ] && [ -d "$1" ] || { echo "usage: sh $0 EMPTY-FOLDER" >&2; exit 2; }';
        yield '[ -z "$(ls -A -- "$1")" ] || { echo "The folder $1 is not empty." >&2; exit 2; }';
        yield 'here=$(cd "$(dirname "$0")" && pwd)';
        foreach ($disks ?? array_keys(ImagePlan::disksOf($points, $point)) as $disk) {
            $of = DiskOfPoint::of($points, $point, $disk);
            if ($of !== null) {
                yield from self::disk($points, $of, $below);
            }
        }
    }

    /** @return iterable<string> */
    private static function disk(Points $points, DiskOfPoint $of, string $below): iterable
    {
        yield '';
        yield '# '.Shown::name($of->disk);
        $options = [];
        foreach (array_reverse($of->chain) as $set) {
            $copy = self::copy($set, $of->disk);
            if ($copy === null || ! $of->hasBottom) {
                $because = "{$set->name} cannot be read, or what it rests on is not known: let Kaiseki mend this point";
                yield 'echo '.HandSheet::quoted($because).' >&2; exit 1';

                return;
            }
            $path = $below === '' ? HandSheet::quoted("{$copy->store->root}/{$copy->path}") : $below.HandSheet::quoted($copy->path);
            $digest = SetPart::all($points->model($set))[$copy->part]->digest ?? null;
            if ($digest !== null) {
                yield "printf '%s  %s\\n' $digest $path | b2sum --length=256 --check --quiet -";
            }
            $format = DiskFacts::ofSet($points->model($set))[$of->disk]->format ?? 'raw';
            // A comma in a name is doubled, as qemu(1) has it.
            $file = str_replace(',', ',,', $path);
            $options = [
                ["driver=$format", 'file.driver=file', "file.filename=$file"],
                ...array_map(fn (array $below): array => array_map(fn (string $option): string => "backing.$option", $below), $options),
            ];
        }
        $graph = implode(',', array_merge(...$options));
        yield "qemu-img convert --image-opts $graph -O raw \"\$1\"/".HandSheet::quoted("{$points->workload->name}.{$of->disk}.raw");
    }

    private static function copy(SetOutline $set, string $disk): ?CopyOutline
    {
        foreach ($set->copies as $copy) {
            if ($copy->state->isReadable() && ($set->parts[$copy->part] ?? '') === $disk) {
                return $copy;
            }
        }

        return null;
    }
}
