<?php

declare(strict_types=1);

namespace App\Trees;

use App\Kinds\Given;
use App\Kinds\Judge;
use App\Kinds\Usability;
use App\Models\BackupSet;
use App\Sets\LeftOut;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Stores\UnableToStore;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Places\DoubtfulContent;
use App\Trees\Places\LostContent;
use App\Words;
use Closure;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Chain\BackupSet as ChainSet;
use Kaiseki\Core\Chain\CopyChooser;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Estimate\RestoreEstimate;
use Kaiseki\Core\Proof\DigestLine;
use Kaiseki\Core\Proof\HandSheet;
use Kaiseki\Core\Protect\Consistency;
use LogicException;

/** Judges points that hold trees of files, by what is in them: a content that lies in any set that can be read comes back. */
final class TreeJudge implements Judge
{
    private ?LostContent $lost = null;

    /** @param  (Closure(BackupSet): list<Given>)|null  $beyond  what a set gives beyond files, where a kind knows what is in them */
    public function __construct(private readonly Points $points, private readonly ?Closure $beyond = null)
    {
    }

    /** The judge of points that are known to hold trees. */
    public static function of(Points $points): self
    {
        return $points->judge instanceof self
            ? $points->judge
            : throw new LogicException("{$points->workload->name} holds no tree of files.");
    }

    public function lost(): LostContent
    {
        return $this->lost ??= new LostContent($this->points);
    }

    /** Files from plain archives are of unknown consistency, and that is enough for files. */
    public function needsConsistency(): bool
    {
        return false;
    }

    public function usability(SetOutline $set): Usability
    {
        $lost = $this->lost()->counts()[$set->id] ?? 0;
        if ($lost === 0) {
            return Usability::whole();
        }
        $words = sprintf(
            '%s of its %s files %s in no archive that can be read',
            number_format($lost),
            number_format($set->treeFiles),
            $lost === 1 ? 'is' : 'are',
        );
        $because = $set->baseUnknownBecause === null ? $words : "$words: {$set->baseUnknownBecause}";

        return $lost < $set->treeFiles ? Usability::part($because) : Usability::no($because);
    }

    public function hurt(): int
    {
        return count($this->lost()->counts());
    }

    public function bridged(SetOutline $set): ?SetOutline
    {
        if (
            $this->lost()->isNothingUnreadable() ||
            isset($this->lost()->counts()[$set->id]) ||
            $this->points->graph->blockageOf($set->name) !== null
        ) {
            return null;
        }
        $lowest = $this->points->chains->lowestUnreadable($set->name);

        return $lowest === null ? null : $this->points->set($lowest->id);
    }

    /** @param  list<string>|null  $wanted  paths */
    public function blockages(?array $wanted): Closure
    {
        if ($wanted === null) {
            return fn (SetOutline $set): ?string => $this->usability($set)->because;
        }
        $missing = $this->lost()->countsWithin($wanted);

        return function (SetOutline $set) use ($missing): ?string {
            $count = $missing[$set->id] ?? 0;

            return $count === 0
                ? null
                : sprintf('%s selected %s in no archive that can be read', number_format($count), $count === 1 ? 'file is' : 'files are');
        };
    }

    /** @param  list<string>|null  $wanted  paths */
    public function doubts(?array $wanted): Closure
    {
        $within = null;

        return function (SetOutline $set) use ($wanted, &$within): ?string {
            if ($set->doubtful === 0) {
                return 'it is in doubt: see its signs';
            }
            $count = $set->doubtful;
            if ($wanted !== null) {
                $within ??= (new DoubtfulContent($this->points))->countsWithin($wanted);
                $count = $within[$set->id] ?? 0;
            }

            return $count === 0
                ? null
                : sprintf(
                    '%s%s %s in doubt: there are signs that the content was damaged before it was backed up',
                    $wanted === null ? 'of its files ' : 'of the selected files ',
                    number_format($count),
                    $count === 1 ? 'is' : 'are',
                );
        };
    }

    /** By sets: quick enough for a page of all workloads. */
    public function restoreSeconds(SetOutline $set): ?float
    {
        $pieces = array_map(fn (SetOutline $one): ChainSet => $one->set, $this->points->chain($set->name) ?: [$set]);
        $readable = array_values(array_filter($pieces, fn (ChainSet $one): bool => $one->readableCopies() !== []));
        $list = CopyChooser::choose(
            array_map(fn (ChainSet $one): array => [$one, $one->bytes], $readable),
            $this->points->route(null),
            new CopyRule,
        );
        $model = $this->points->model($set);
        $costs = $this->points->rates()->costs($this->points->stores->all()->all(), $this->points->workload->site);

        return $list === null ? null : RestoreEstimate::of($list, $model->tree_files, $model->tree_bytes, $costs)->whole->likely;
    }

    public function gives(BackupSet $set): array
    {
        $outline = $this->points->sets[$set->id];
        $usability = $this->usability($outline);
        $lost = $this->lost()->counts()[$set->id] ?? 0;
        $leftOut = array_values(array_filter($set->remarks ?? [], fn (string $remark): bool => str_contains($remark, 'not stored')));
        $excluded = LeftOut::ofSet($set)->words();
        if ($excluded !== '') {
            $leftOut[] = "Left out on purpose: $excluded.";
        }
        $alone = $set->seekable
            ? 'each is read alone, without what stands before it'
            : 'the archive is one stream: what stands before a file is inflated first';

        return [
            new Given(
                'the whole tree',
                $usability->isWhole(),
                $usability->because ?? Words::count($set->tree_files, 'file').', '.Words::size($set->tree_bytes),
            ),
            new Given(
                'single files and folders',
                $usability->state !== 'no',
                $usability->state === 'no' ? 'none of its contents can be read' : ($lost > 0 ? 'those that can be read; ' : '').$alone,
            ),
            new Given(
                'owners, modes, times, links',
                $set->cataloged !== 'no',
                $set->cataloged === 'whole' ? 'as they were' : 'as far as its base is known',
            ),
            new Given('everything that was there', $leftOut === [], $leftOut === [] ? 'but sockets and devices' : implode(' ', $leftOut)),
            new Given(
                'a program\'s data at rest',
                $set->consistency === 'application',
                (Consistency::tryFrom($set->consistency) ?? Consistency::Unknown)->words(),
            ),
            ...$this->beyond === null
                ? [new Given('databases, mail, machines', false, 'this is a set of files: it has them only as files')]
                : ($this->beyond)($set),
        ];
    }

    public function writeNightSheet(SetOutline $point, array $archives, string $folder): string
    {
        $name = $this->points->workload->name;
        $commands = '';
        foreach ($archives as $path) {
            $commands .=
                'tar --extract --file "$here"/../'.
                HandSheet::quoted($path).
                " --listed-incremental=/dev/null --preserve-permissions --directory \"\$to\"\n";
        }
        $sheet = "hand-sheet-$name.sh";
        file_put_contents(
            "$folder/$sheet",
            strtr(
                <<<'SH'
                #!/bin/sh
                # The newest good point of %name%: %set%, as it was at %at%.
                # Run it with an empty folder to restore to:  sh %sheet% /some/empty/folder
                # Each archive is laid over the one before it; then every file is compared with its digest.
                set -eu
                [ $# -eq 1 ] && [ -d "$1" ] || { echo "usage: sh $0 FOLDER" >&2; exit 2; }
                [ -z "$(ls -A "$1")" ] || { echo "$1 is not empty" >&2; exit 2; }
                here=$(cd "$(dirname "$0")" && pwd)
                to=$(cd "$1" && pwd)
                %commands%cd "$to" && b2sum --length=256 --quiet --check "$here"/%list% && echo "All files are right."

                SH
                ,
                [
                    '%name%' => $name,
                    '%set%' => Shown::name($point->name),
                    '%at%' => $point->capturedAt()->format('Y-m-d H:i:s \U\T\C'),
                    '%sheet%' => $sheet,
                    '%commands%' => $commands,
                    '%list%' => HandSheet::quoted("$name.b2sum"),
                ],
            ),
        );
        $list = @fopen("$folder/$name.b2sum", 'wb') ?: throw UnableToStore::because("$folder: is the disk full?");
        foreach ((new CatalogReader)->entriesBelow($this->points->model($point), ['']) as $path => $packed) {
            $digest = $packed[0] === 'f' ? Version::columns($packed)['digest'] : null;
            if ($digest !== null) {
                fwrite($list, DigestLine::of($digest, "./$path"));
            }
        }
        fclose($list);

        return "$sheet: ".Shown::name($point->name).', '.count($archives).' archives.';
    }
}
