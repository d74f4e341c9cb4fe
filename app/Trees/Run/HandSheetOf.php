<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Models\BackupSet;
use App\Models\Copy;
use App\Sets\Points;
use App\Trees\Places\ContentPlaces;
use App\Trees\Places\PlanOfReading;
use App\Words;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\ArchiveReading;
use Kaiseki\Core\Files\ContentPlace;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Proof\HandSheet;

/** Makes the hand sheet of an order: where each content lies, and under which name in which archive. */
final class HandSheetOf
{
    private HandSheet $sheet;

    /** @var array<array-key, true> keys of the archives that are read */
    private array $used = [];

    private function __construct(private readonly PlannedOrder $planned, private readonly ContentPlaces $places)
    {
    }

    /** The whole tree into an empty folder, whatever the order says of a target. */
    public static function make(
        RestorePlan $plan,
        PlannedOrder $planned,
        PlanOfReading $reading,
        BackupSet $point,
        Points $points,
    ): HandSheet {
        $route = $points->route(null);
        $self = new self($planned, new ContentPlaces($points, $point, $route, $reading->list, $plan->copies));
        $self->sheet = new HandSheet($plan->sentence, [
            "{$points->workload->name}, the point {$point->name}, as it was at {$point->captured_at->format('Y-m-d H:i:s')} UTC.",
            'Set-user and set-group bits, sockets and devices are left out. '.
            Words::count($reading->files, 'file').
            ', '.
            Words::size($reading->bytes).
            '.',
        ]);
        $self->fill();

        return $self->sheet;
    }

    private function fill(): void
    {
        $byDigest = [];
        foreach ($this->planned->order->items as $path => $packed) {
            $path = (string) $path;
            $version = Version::unpack($packed);
            $left = RestoreOrder::leftOut($path, $version);
            if ($left !== null) {
                $this->sheet->missing($path, $left->because);
            } elseif ($path !== '' && $version->kind === EntryKind::File && $version->size > 0) {
                $byDigest[(string) $version->digest][$path] = $version;
            } elseif ($path !== '') {
                $this->sheet->entry($path, $version);
            }
        }
        $this->takeContents($byDigest);
        $this->nameArchives();
    }

    /** @param  array<string, non-empty-array<array-key, Version>>  $byDigest */
    private function takeContents(array $byDigest): void
    {
        $work = [];
        foreach ($byDigest as $digest => $files) {
            $place = $this->places->placeOf((string) $digest);
            if ($place === null) {
                $this->missing($files);

                continue;
            }
            $work[] = [$place, (string) $digest];
        }
        usort(
            $work,
            fn (array $a, array $b): int => [$a[0]->order, $a[0]->place->offset, $a[0]->place->within] <=> [
                $b[0]->order,
                $b[0]->place->offset,
                $b[0]->place->within,
            ],
        );
        $reading = new ArchiveReading;
        foreach ($work as [$place, $digest]) {
            $member = $this->memberAt($reading, $place, $digest);
            if ($member === null) {
                $this->missing($byDigest[$digest]);

                continue;
            }
            [$key, $name] = $member;
            $this->used[$key] = true;
            $this->sheet->content($key, $name, $byDigest[$digest]);
        }
    }

    /** @return array{string, string}|null archive and name of the member, from the first copy that can be read */
    private function memberAt(ArchiveReading $reading, ContentPlace $place, string $digest): ?array
    {
        for ($failed = []; $place !== null; $place = $this->places->placeOf($digest, $failed)) {
            try {
                return [$place->archiveKey, $reading->member($place)->path];
            } catch (UnreadableArchive $damage) {
                $this->places->archiveFailed($place->archiveKey, $damage->getMessage());
                $failed[] = $place->archiveKey;
            }
        }

        return null;
    }

    private function nameArchives(): void
    {
        foreach (
            Copy::query()->with('store', 'set')->whereIn('id', array_map(intval(...), array_keys($this->used)))->get()->keyBy('id') as $copy
        ) {
            $folder = $copy->store->kind === 'folder';
            $this->sheet->archive((string) $copy->id, $folder ? "{$copy->store->root}/{$copy->path}" : basename($copy->path), [
                "{$copy->set->name}, on {$copy->store->name} at {$copy->store->site}",
                ...match (true) {
                    $folder => [],
                    $copy->segments !== null && $copy->segments !== [] => [
                        'On the cartridges '.
                        implode(', ', array_column($copy->segments, 'label')).
                        ': read it from them into a file first, and name that file here.',
                    ],
                    default => [
                        "In the bucket {$copy->store->root} as {$copy->path}: fetch it into a file first, and name that file here.",
                    ],
                },
            ]);
        }
    }

    /** @param  array<array-key, Version>  $files */
    private function missing(array $files): void
    {
        foreach (array_keys($files) as $path) {
            $this->sheet->missing((string) $path, 'its content is in no archive that can be read');
        }
    }
}
