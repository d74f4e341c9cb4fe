<?php

declare(strict_types=1);

namespace App\Kinds\Machines;

use App\Kinds\Given;
use App\Kinds\Judge;
use App\Kinds\Machines\Disks\DiskFacts;
use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Order\ImageHandSheet;
use App\Kinds\Machines\Order\RecordedSettings;
use App\Kinds\Usability;
use App\Models\BackupSet;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Words;
use Closure;
use Illuminate\Support\Facades\Cache;
use Kaiseki\Core\Protect\Consistency;
use Kaiseki\Core\UnableToRead;
use Kaiseki\Core\Volume\FileSystems;

/** A point of a machine gives back each block that some set which can be read holds: the chain is how they are found, and no more. */
final class MachineJudge implements Judge
{
    /** Bytes a second that are read, checked, written and read again, where nothing was measured. */
    private const RATE = 100_000_000;

    /** Seconds for which it is kept how much of a point with a broken chain is lost. */
    private const KEEP = 86_400;

    /** @var array<int, Usability> */
    private array $usability = [];

    private ?int $hurt = null;

    public function __construct(private readonly Points $points)
    {
    }

    public function needsConsistency(): bool
    {
        return true;
    }

    public function usability(SetOutline $set): Usability
    {
        return $this->usability[$set->id] ??= $this->judge($set);
    }

    private function judge(SetOutline $set): Usability
    {
        $because = $this->points->brokenChain($set);
        if ($because === null) {
            return Usability::whole();
        }
        try {
            $lost = $this->lost($set);
        } catch (UnableToRead $unable) {
            return Usability::no($unable->getMessage());
        }

        return match (true) {
            $lost === null => Usability::no($because),
            $lost === 0 => Usability::whole(),
            default => Usability::part("$because: ".Words::count($lost, 'block').' of 64 KiB lie nowhere else'),
        };
    }

    /** Blocks that nobody can give back, of all disks; null if nothing of it can be read. Reckoned once for each state of its copies. */
    private function lost(SetOutline $set): ?int
    {
        $disks = [];
        $state = [];
        foreach (array_keys(DiskFacts::ofSet($this->points->model($set))) as $name) {
            $disk = DiskOfPoint::of($this->points, $set, $name);
            if ($disk !== null) {
                $disks[$name] = $disk;
                $state[$name] = $disk->unreadable();
            }
        }
        if (array_filter($disks, fn (DiskOfPoint $disk): bool => count($disk->unreadable()) < count($disk->chain)) === []) {
            return null;
        }
        $readable = array_filter($this->points->sets, fn (SetOutline $one): bool => $one->isReadable());
        $key = hash('sha256', json_encode([$set->id, $state, array_keys($readable)], JSON_THROW_ON_ERROR));

        return Cache::remember(
            "lost-blocks-$key",
            self::KEEP,
            fn (): int => array_sum(array_map(fn (DiskOfPoint $disk): int => $disk->lostBlocks(), $disks)),
        );
    }

    public function hurt(): int
    {
        return $this->hurt ??= count(array_filter($this->points->sets, fn (SetOutline $set): bool => ! $this->usability($set)->isWhole()));
    }

    public function bridged(SetOutline $set): ?SetOutline
    {
        $lowest = $this->points->brokenChain($set) === null ? null : $this->points->chains->lowestUnreadable($set->name);

        return $lowest !== null && $this->usability($set)->isWhole() ? $this->points->set($lowest->id) : null;
    }

    public function blockages(?array $wanted): Closure
    {
        return fn (SetOutline $set): ?string => $this->usability($set)->because;
    }

    public function doubts(?array $wanted): Closure
    {
        return fn (SetOutline $set): string => 'it is in doubt: see its signs';
    }

    public function restoreSeconds(SetOutline $set): float
    {
        $held = array_map(
            fn (SetOutline $one): int => array_sum(
                array_map(fn (DiskFacts $disk): int => $disk->held, DiskFacts::ofSet($this->points->model($one))),
            ),
            $this->points->chain($set->name),
        );

        return array_sum($held) / self::RATE;
    }

    public function gives(BackupSet $set): array
    {
        $usability = $this->usability($this->points->sets[$set->id]);
        $disks = DiskFacts::ofSet($set);
        $sizes = array_map(fn (DiskFacts $disk): string => "{$disk->name} (".Words::size($disk->size).')', $disks);

        return [
            new Given('images of its disks', $usability->state !== 'no', $usability->because ?? implode(', ', $sizes)),
            new Given(
                'single disks',
                $usability->state !== 'no' && count($disks) > 1,
                count($disks) > 1 ? 'each by itself' : 'there is one',
            ),
            new Given(
                'files out of it',
                $usability->state !== 'no',
                $usability->because ?? 'from volumes of '.FileSystems::READ.'; others come back as whole disks',
            ),
            self::settings($set),
            new Given(
                'a program\'s data at rest',
                $set->consistency === Consistency::Application->value,
                (Consistency::tryFrom($set->consistency) ?? Consistency::Unknown)->words(),
            ),
        ];
    }

    private static function settings(BackupSet $set): Given
    {
        $words = RecordedSettings::said($set)?->words() ?? [];

        return new Given(
            'its settings',
            $words !== [],
            $words === []
                ? 'images say nothing of firmware, memory and networks'
                : "{$words['firmware']}, {$words['memory']}, cards: {$words['cards']}",
        );
    }

    public function writeNightSheet(SetOutline $point, array $archives, string $folder): string
    {
        $workload = $this->points->workload->name;
        $sheet = "hand-sheet-$workload.sh";
        file_put_contents("$folder/$sheet", ImageHandSheet::script($this->points, $point, '"$here"/../'));

        return "$sheet: $workload as of {$point->name}, ".count($archives).' images; it needs qemu-img.';
    }
}
