<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Disks\VolumeOfPoint;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\MachineSheet;
use Carbon\CarbonImmutable;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\UnableToRead;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\UnreadableVolume;

/** A folder inside a machine, as the page lists it. */
final class InsideView
{
    /** Rows that are shown. */
    private const MOST = 1000;

    /** Without a leading slash; '' for the volumes. */
    public readonly string $folder;

    /** Why it cannot be listed; null if it can. */
    public ?string $problem = null;

    /** How many there are. */
    public int $count = 0;

    /** @var list<string> */
    public array $losses = [];

    private readonly ?MachineTree $tree;

    public function __construct(private readonly MachineSheet $sheet, string $folder)
    {
        try {
            $folder = EntryPath::of($folder);
        } catch (UnsafePath) {
            $folder = '';
        }
        $this->folder = $folder;
        $this->tree = $sheet->point === null ? null : new MachineTree($sheet->points, $sheet->point, $sheet->request->copyRule());
    }

    /** @return list<VolumeOfPoint> */
    public function volumes(): array
    {
        try {
            return array_values($this->tree?->volumes() ?? []);
        } catch (UnableToRead $unable) {
            $this->problem = $unable->getMessage();

            return [];
        }
    }

    /** @return array<string, FoundFile> name => what it is, folders first */
    public function rows(): array
    {
        $rows = [];
        try {
            [$volume, $folder] = $this->tree?->find($this->folder) ?? throw CannotBring::because('There is no usable point yet.');
            foreach ($volume->files?->children($folder) ?? [] as $name => $file) {
                $rows[(string) $name] = $file;
            }
            $this->losses = $volume->files?->losses() ?? [];
        } catch (CannotBring|UnreadableVolume|UnreadableImage|UnableToRead $cannot) {
            $this->problem = ucfirst($cannot->getMessage());
        }
        $isFolder = fn (string $name): bool => $rows[$name]->version->kind === EntryKind::Folder;
        uksort(
            $rows,
            fn (int|string $a, int|string $b): int => [! $isFolder((string) $a), (string) $a] <=> [! $isFolder((string) $b), (string) $b],
        );
        $this->count = count($rows);

        return array_slice($rows, 0, self::MOST, true);
    }

    /** @return non-empty-list<array{string, string}> path and name: of the volumes, of the folders above, and of this one */
    public function trail(): array
    {
        $trail = [];
        for ($path = $this->folder; $path !== ''; [$path] = EntryPath::split($path)) {
            array_unshift($trail, [$path, EntryPath::split($path)[1]]);
        }

        return [['', 'volumes'], ...$trail];
    }

    public function changed(FoundFile $file): CarbonImmutable
    {
        return CarbonImmutable::createFromTimestampUTC(intdiv($file->version->mtime, 1_000_000_000));
    }

    public function path(string $name): string
    {
        return EntryPath::join($this->folder, $name);
    }

    /** Whether it comes with a folder that is picked. */
    public function comesAlong(string $path): bool
    {
        foreach ($this->sheet->said->selection() as $picked) {
            if ($picked !== $path && EntryPath::isWithin($path, $picked)) {
                return true;
            }
        }

        return false;
    }

    public function isPicked(string $path): bool
    {
        return in_array($path, $this->sheet->said->selection(), true);
    }
}
