<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Agents\Agent;
use App\Instance;
use App\Kinds\Machines\Disks\DiskFiles;
use App\Kinds\Machines\Disks\KernelDrivers;
use App\Kinds\Machines\Disks\KernelSearch;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\BackupSet;
use App\Models\Workload;
use App\Sets\CopyOutline;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Places\PlanOfReading;
use App\Trees\Places\PointContents;
use App\Trees\TreeJudge;
use Kaiseki\Core\Archive\GzipStream;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\SpooledContent;
use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Metal\AttributeDump;
use Kaiseki\Core\Metal\InsideSheet;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutProposal;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\LayoutWish;
use Kaiseki\Core\Metal\MachineRecord;
use Kaiseki\Core\Metal\NamedCards;
use Kaiseki\Core\Metal\RecordedDisk;
use Kaiseki\Core\Metal\SentTree;
use Kaiseki\Core\Metal\TargetDisk;
use Kaiseki\Core\Metal\TargetMachine;
use Kaiseki\Core\Metal\UnfitLayout;
use Kaiseki\Core\Metal\VolumeUse;
use Kaiseki\Core\Proof\HandSheet;
use Kaiseki\Core\Volume\FileSystem;
use Kaiseki\Core\Volume\FileSystems;
use Kaiseki\Core\Volume\UnreadableVolume;

/** A machine that sent itself: its files, and among them what it wrote down of its disks. */
final class FromInside implements MetalSource
{
    /** Bytes of a file of the record, but of images: lists of attributes are the longest. */
    private const LARGEST = 64 << 20;

    /** Bytes that are handed on at a time. */
    private const AT_ONCE = 1 << 20;

    /** In the facts of a set. */
    private const FACT = 'machine';

    private const LARGEST_ANSWER = 1024;

    private readonly BackupSet $set;

    private ?PointContents $contents = null;

    private ?MachineRecord $known = null;

    private ?PlanOfReading $planned = null;

    /** @var array<string, array<string, string>>|null path => attributes */
    private ?array $attributes = null;

    /** @var list<string> of the disks that are wanted, where their file systems were mounted */
    private array $wanted = [''];

    public function __construct(
        private readonly Points $points,
        private readonly SetOutline $point,
        private readonly CopyRule $copies,
    ) {
        $this->set = $points->model($point);
    }

    /** Whether a point has what a blank machine must know. */
    public static function isAt(BackupSet $set): bool
    {
        return (new CatalogReader)->at($set, MachineRecord::FOLDER.'/'.MachineRecord::LIST) !== null;
    }

    /** Whether the newest set of a workload has. */
    public static function isOf(Workload $workload): bool
    {
        $newest = $workload->sets()->orderByDesc('instant')->first();

        return $newest !== null && self::isAt($newest);
    }

    public function record(): LayoutRecord
    {
        return $this->known()->layout;
    }

    public function only(array $disks): void
    {
        $this->planned = null;
        $this->wanted = [];
        foreach ($this->known()->files as $volume => $use) {
            if (array_intersect($this->known()->layout->disksOf((string) $volume), $disks) !== []) {
                $this->wanted[] = $use->at;
            }
        }
        $this->wanted[] = MachineRecord::FOLDER;
    }

    public function reading(): PlanOfReading
    {
        return $this->planned ??= PlanOfReading::for($this->points, $this->set, $this->wanted, null, $this->copies);
    }

    public function blockers(): array
    {
        $blockers = [];
        if (array_filter($this->known()->files, fn (VolumeUse $use): bool => $use->at === '') === []) {
            $blockers[] = 'Its root file system lay on nothing that can be made anew here, so that it would not start: '.
                'bring its files into a machine that was set up by hand.';
        }
        $lost = TreeJudge::of($this->points)->lost()->pathsAt($this->point, $this->wanted, 4);
        if ($lost !== []) {
            $names = implode(', ', array_map(rawurlencode(...), array_slice($lost, 0, 3))).(count($lost) > 3 ? ' and more' : '');
            $blockers[] = "Some of its files cannot be given back at this point: $names. Choose another, or see the copies of its sets.";
        }

        return $blockers;
    }

    public function cautions(): array
    {
        $agent = Agent::of($this->points->workload);
        $isOn = $agent !== null && ! $agent->isSilent();

        return [...$this->known()->cautions, ...$isOn ? [
            "The old machine still asks for work, from {$agent->address}: two with one address and one name will be in each other's way.",
        ] : []];
    }

    public function next(): array
    {
        $name = $this->points->workload->name;

        return [
            "Make it known: agent script $name gives it a new file. What it was known by is in no set, so that it writes into no history.",
            ...array_map(fn (string $one): string => "Restore $one from sets of its own, where it has some.", $this->known()->leftOut),
            'Have a full made of it.',
        ];
    }

    public function disk(string $name): Disk
    {
        return MachineRecord::beginning($this->record()->disk($name)->bytes ?? 0, (string) $this->file(MachineRecord::begin($name)));
    }

    public function image(string $volume, int $bytes): iterable
    {
        $packed = $this->stored(MachineRecord::image($volume)) ?? throw CannotBring::because("There is no image of $volume.");
        $stream = new GzipStream(new StreamBytes($packed->rewound()));
        for ($left = $bytes; $left > 0; $left -= strlen($read)) {
            $read = $stream->read(min(self::AT_ONCE, $left));
            $read !== '' || throw CannotBring::because("The image of $volume ends before its end.");
            yield $read;
        }
        $stream->read(1) === '' || throw CannotBring::because("The image of $volume goes on behind its end.");
    }

    public function tree(string $volume, array $cards = []): SentTree
    {
        $use = $this->known()->files[$volume] ?? throw CannotBring::because("Nobody wrote down where $volume was mounted.");

        $tree = new InsideTree($this->set, $use->at, $this->known()->within($volume), $this->attributes(), $this->contents());

        return $use->at === '' && $cards !== [] ? new NamedCards($tree, $cards) : $tree;
    }

    public function handSheet(LayoutPlan $plan): iterable
    {
        $archives = [];
        foreach ($this->points->chain($this->point->name) as $set) {
            $copies = array_filter($set->copies, fn (CopyOutline $copy): bool => $copy->state->isReadable());
            usort($copies, fn (CopyOutline $a, CopyOutline $b): int => ($b->store->kind === 'folder') <=> ($a->store->kind === 'folder'));
            $copy = $copies[0] ??
                throw CannotBring::because("No copy of {$set->name} can be read, and a person needs each set of the chain.");
            $archives[] = HandSheet::quoted($copy->store->kind === 'folder' ? "{$copy->store->root}/{$copy->path}" : basename($copy->path));
        }
        yield from $this->sheet($plan, $archives);
    }

    /**
     * The same onto disks as large as its own were, or larger, with archives that lie beside the sheet.
     *
     * @param  list<string>  $archives  below the folder above that of the sheet
     * @return iterable<string>
     */
    public function nightSheet(array $archives): iterable
    {
        $disks = array_map(
            fn (RecordedDisk $disk): TargetDisk => new TargetDisk($disk->name, $disk->bytes, 512, '', '', false, [], ''),
            $this->record()->disks,
        );
        $own = new TargetMachine($this->record()->firmware, '', '', 0, $disks, [], []);
        $below = array_map(fn (string $path): string => '"$here"/../'.HandSheet::quoted($path), $archives);
        yield from $this->sheet(LayoutProposal::of($this->record(), $own, new LayoutWish), $below);
    }

    /**
     * @param  list<string>  $archives  as a shell finds them
     * @return iterable<string>
     */
    private function sheet(LayoutPlan $plan, array $archives): iterable
    {
        $title = "{$this->points->workload->name}, the point {$this->point->name}, onto the disks of another machine";
        $sheet = new InsideSheet($plan, $this->known(), $title, $archives);
        yield from $sheet->beginning();
        yield from $sheet->lines();
    }

    public function cards(): array
    {
        return $this->known()->cards;
    }

    public function startingFiles(string $key, int $bytes): ?FileSystem
    {
        if (! in_array($key, $this->known()->images, true)) {
            return null;
        }
        $file = Instance::folder('tmp').'/starting-'.bin2hex(random_bytes(6));
        try {
            $to = fopen($file, 'wb') ?: throw CannotBring::because('There is no room to look into what it starts from.');
            foreach ($this->image($key, $bytes) as $piece) {
                fwrite($to, $piece) === strlen($piece) || throw CannotBring::because('There is no room to look into what it starts from.');
            }
            fclose($to);

            return FileSystems::on(FileDisk::open($file)); // which has it open from now on
        } catch (UnreadableVolume|UnreadableImage) {
            return null;
        } finally {
            @unlink($file);
        }
    }

    public function kernel(string $disk): ?KernelDrivers
    {
        $this->known(); // it was looked for when that was read

        return KernelDrivers::starting($this->set, $disk);
    }

    public function answers(?Answer $answer): array
    {
        $wanted = [];
        foreach ($answer->files ?? [] as $path) {
            $packed = (new CatalogReader)->at($this->set, EntryPath::of(rawurldecode($path)));
            $content = $packed === null ? null : $this->contents()->of(Version::unpack($packed));
            $content !== null || throw CannotBring::because("$path, by which it is known, cannot be read at this point.");
            $wanted[$path] = mb_scrub(trim((string) fread($content->rewound(), self::LARGEST_ANSWER)));
        }

        return $wanted;
    }

    private function known(): MachineRecord
    {
        try {
            return $this->known ??= $this->kept() ?? $this->keep(MachineRecord::read($this->file(...)));
        } catch (UnfitLayout $unfit) {
            throw CannotBring::because("What {$this->point->name} says of the machine cannot be used: {$unfit->getMessage()}");
        }
    }

    /** What was read out of the set before: a set does not change. */
    private function kept(): ?MachineRecord
    {
        $kept = $this->set->facts[self::FACT] ?? null;

        return is_array($kept) ? MachineRecord::kept($kept) : null;
    }

    private function keep(MachineRecord $record): MachineRecord
    {
        $this->set->update(['facts' => [self::FACT => $record->toArray()] + ($this->set->facts ?? [])]);
        $starts = array_filter($record->layout->disks, fn (RecordedDisk $disk): bool => $disk->mayStart());
        $files = new PointFiles($this->set, $this->contents());
        KernelDrivers::keep($this->set, (new KernelSearch(
            array_map(fn (RecordedDisk $disk): DiskFiles => new DiskFiles($disk->name, $files), array_values($starts)),
            [],
        ))->find());

        return $record;
    }

    private function contents(): PointContents
    {
        return $this->contents ??= new PointContents($this->points, $this->set, null, $this->copies);
    }

    /** @return array<string, array<string, string>> */
    private function attributes(): array
    {
        if ($this->attributes === null) {
            $stored = $this->stored(MachineRecord::ATTRIBUTES);
            $this->attributes = $stored === null ? [] : iterator_to_array(AttributeDump::read($stored->rewound()));
        }

        return $this->attributes;
    }

    private function file(string $name): ?string
    {
        $stored = $this->stored($name);

        return $stored === null ? null : (string) stream_get_contents($stored->rewound(), self::LARGEST);
    }

    private function stored(string $name): ?SpooledContent
    {
        $packed = (new CatalogReader)->at($this->set, MachineRecord::FOLDER."/$name");

        return $packed === null ? null : $this->contents()->of(Version::unpack($packed));
    }
}
