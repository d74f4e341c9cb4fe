<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use App\Kinds\Machines\Disks\BlockFiles;
use App\Kinds\Machines\Disks\DiskFacts;
use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Disks\ImageOf;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\Points;
use App\Sets\SetPart;
use App\Sets\SidecarFiles;
use App\Trees\Intake\SetRegistration;
use Carbon\CarbonImmutable;
use Closure;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Machine\BlockList;
use Kaiseki\Core\Machine\BlockRun;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\BlockScan;
use Kaiseki\Core\Machine\BlockState;
use Kaiseki\Core\Machine\Layer;
use Kaiseki\Core\Machine\LayeredDisk;
use Kaiseki\Core\Machine\Qcow2Image;
use Kaiseki\Core\Protect\Consistency;

/** Takes a set of a machine in: the images of its disks of one moment, each read once from its beginning to its end. */
final class ImageRegistration
{
    /** @param  (Closure(string, int): void)|null  $progress  told the file in hand, and blocks that were read */
    public function __construct(
        private readonly Workload $workload,
        private readonly Store $store,
        private readonly ?Closure $progress,
    ) {
    }

    /**
     * @param  non-empty-list<FoundImage>  $images  of different disks
     * @param  BackupSet|null  $madeOver  what it was reckoned against, where we made it ourselves
     *
     * @throws \Kaiseki\Core\Machine\UnreadableImage|\Kaiseki\Core\Archive\UnreadableArchive|CannotRegister
     */
    public function add(array $images, ?BackupSet $madeOver = null): BackupSet
    {
        $first = $images[0];
        $this->refuseIfUnfit($images);
        $history = History::query()->firstOrCreate(['workload_id' => $this->workload->id, 'name' => $first->history]);
        $layers = [];
        foreach ($images as $image) {
            $layers[$image->disk] = ImageOf::format($image->format, StreamBytes::ofFile("{$this->store->root}/{$image->file}"));
        }
        $remarks = [];
        $base = $madeOver === null ? $this->base($images, $layers, $history, $remarks) : [$madeOver, true];
        $set = BackupSet::query()->create([
            'workload_id' => $this->workload->id,
            'history_id' => $history->id,
            'name' => $first->set,
            'level' => $first->level->name,
            'instant' => BackupSet::freeInstant($history->id, $first->at->microseconds),
            'captured_at' => $first->at->in(),
            'consistency' => 'crash',
            'base_id' => $base[0]?->id,
            'base_recorded' => $base[1],
            'base_name' => $base[1] ? $base[0]?->name : null,
        ]);
        $points = $base[0] === null ? null : new Points($this->workload);
        $disks = [];
        $pieces = [];
        foreach ($images as $part => $image) {
            $disks[] = $this->scan($set, $part, $image, $layers[$image->disk], $base[0], $points);
            $pieces[$image->disk] = PieceDigests::of(StreamBytes::ofFile("{$this->store->root}/{$image->file}"));
            Copy::query()->create([
                'set_id' => $set->id,
                'store_id' => $this->store->id,
                'path' => $image->file,
                'bytes' => $pieces[$image->disk]->bytes,
                'part' => $part,
                'state' => 'ok',
            ]);
        }
        SetPart::enter($set, $pieces);
        $set->update([
            'facts' => ['type' => 'machine', 'disks' => array_map(fn (DiskFacts $disk): array => $disk->toArray(), $disks)],
            'tree_bytes' => array_sum(array_map(fn (DiskFacts $disk): int => $disk->size, $disks)),
            'entries' => intdiv(array_sum(array_map(fn (DiskFacts $disk): int => $disk->held, $disks)), Blocks::BYTES),
            'remarks' => $remarks === [] ? null : $remarks,
        ]);

        return $set;
    }

    /**
     * A set of our own, with what its record says beside what its images do.
     *
     * @param  non-empty-list<FoundImage>  $images
     * @param  list<string>  $excluded  disks that are not in it
     *
     * @throws \Kaiseki\Core\Machine\UnreadableImage|\Kaiseki\Core\Archive\UnreadableArchive|CannotRegister
     */
    public function addOwn(array $images, ?BackupSet $base, MachineSettings $settings, Consistency $consistency, array $excluded): BackupSet
    {
        return DB::transaction(function () use ($images, $base, $settings, $consistency, $excluded): BackupSet {
            $set = $this->add($images, $base);
            $set->update([
                'facts' => ['machine' => $settings->toArray(), 'excluded' => $excluded] + ($set->facts ?? []),
                'consistency' => $consistency->value,
                'beside' => SidecarFiles::digests("{$this->store->root}/{$images[0]->file}", $set->name),
                'captured_from' => $set->captured_at,
            ]);
            $set->copies()->update(['has_beside' => true]);

            return $set;
        });
    }

    /** @param  non-empty-list<FoundImage>  $images */
    private function refuseIfUnfit(array $images): void
    {
        $name = $images[0]->set;
        SetRegistration::refuseIfKnown($this->workload, $name);
        $disks = array_map(fn (FoundImage $image): string => $image->disk, $images);
        if (count(array_unique($disks)) < count($disks)) {
            throw CannotRegister::because("two images of one disk have the moment of $name");
        }
    }

    /**
     * What the set rests on: that of whose images its own name the files, and otherwise by the rule of its level.
     *
     * @param  non-empty-list<FoundImage>  $images
     * @param  array<array-key, Layer>  $layers  by disk
     * @param  list<string>  $remarks
     * @return array{BackupSet|null, bool} and whether it is recorded
     */
    private function base(array $images, array $layers, History $history, array &$remarks): array
    {
        $level = $images[0]->level;
        $named = [];
        foreach ($images as $image) {
            $layer = $layers[$image->disk];
            $backing = $layer instanceof Qcow2Image ? $layer->header->backing : '';
            if ($backing === '') {
                continue;
            }
            if ($level->isFull()) {
                throw CannotRegister::because('it is named a full, and rests on another image: '.Shown::name($backing));
            }
            $named[] = $this->setOf($backing, $image, $history);
            if (end($named) === null) {
                $remarks[] = "The image of {$image->disk} names ".Shown::name($backing).
                    ' as what it rests on, which is no image of this machine here, and was not opened.';
            }
        }
        if ($level->isFull()) {
            return [null, false];
        }
        $bases = array_unique(array_map(fn (?BackupSet $set): int => $set->id ?? 0, $named));
        if (count($bases) === 1 && $named[0] !== null) {
            return [$named[0], true];
        }
        $assumed = SetRegistration::assumedBase($history->id, $level, CarbonImmutable::instance($images[0]->at->in()));
        if ($assumed !== null) {
            $remarks[] = "That it rests on {$assumed->name} is assumed.";
        }

        return [$assumed, false];
    }

    /** The earlier set whose image of a disk is the file of a name, in the same folder. The name is compared, never opened. */
    private function setOf(string $backing, FoundImage $image, History $history): ?BackupSet
    {
        $file = str_starts_with($backing, './') ? substr($backing, 2) : $backing;
        if (str_contains($file, '/') || str_contains($file, ':')) {
            return null;
        }
        $copy = Copy::query()
            ->where('store_id', $this->store->id)
            ->whereRaw('path = BINARY ?', [(str_contains($image->file, '/') ? dirname($image->file).'/' : '').$file])
            ->whereHas('set', fn ($set) => $set->where('history_id', $history->id)->where('instant', '<', $image->at->microseconds))
            ->first();
        $set = $copy?->set;

        return $set !== null && isset(DiskFacts::ofSet($set)[$image->disk]) ? $set : null;
    }

    private function scan(BackupSet $set, int $part, FoundImage $image, Layer $layer, ?BackupSet $base, ?Points $points): DiskFacts
    {
        $canRest = $base !== null && $points !== null && ImageOf::canRestOnAnother($image->format);
        $below = $canRest ? self::below($points, $base, $image->disk) : null;
        $restsOn = $base !== null && isset(DiskFacts::ofSet($base)[$image->disk]);
        $isWhole = ! ImageOf::canRestOnAnother($image->format) || $image->level->isFull() || (! $restsOn && $this->restsOnNothing($layer));
        $progress = $this->progress;
        $scan = new BlockScan(
            $layer,
            $below,
            $isWhole,
            $progress === null ? null : fn (int $bytes) => $progress($image->file, intdiv($bytes, Blocks::BYTES)),
        );
        $held = 0;
        BlockList::write(BlockFiles::of($set->id, $part), $layer->size(), self::counted($scan->runs(), $held));

        return new DiskFacts($image->disk, $layer->size(), $image->format, $isWhole, $held * Blocks::BYTES);
    }

    /**
     * @param  iterable<BlockRun>  $runs
     * @return iterable<BlockRun>
     */
    private static function counted(iterable $runs, int &$held): iterable
    {
        foreach ($runs as $run) {
            $held += $run->state === BlockState::Zeros ? 0 : 1;
            yield $run;
        }
    }

    private function restsOnNothing(Layer $layer): bool
    {
        return $layer instanceof Qcow2Image && $layer->header->backing === '';
    }

    /** The disk below, where all that it is made of can be read. */
    private static function below(Points $points, BackupSet $base, string $disk): ?LayeredDisk
    {
        $of = DiskOfPoint::of($points, $points->sets[$base->id], $disk);
        $layers = $of === null ? [] : $of->layers();

        return $of === null || ! $of->hasBottom || count($layers) < count($of->chain) ? null : new LayeredDisk(array_values($layers));
    }
}
