<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Order\CannotBring;
use App\Sets\Points;
use App\Sets\SetOutline;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\ContentPlace;
use Kaiseki\Core\Files\ContentSource;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Volume\FileSystem;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\UnreadableVolume;
use Kaiseki\Core\Volume\VolumeArchive;

/**
 * A selection of files inside a machine at a point, read once for their digests (every block of them is compared with its own), and then
 * brought out like members of an archive.
 */
final class FilesOfMachine implements ContentSource
{
    private const KEY = 'disks';

    /** More than this at once would not fit into memory. */
    private const MOST = 1_000_000;

    /** @var array<array-key, string> path => packed version, a folder before what is in it */
    public array $items = [];

    /** Of contents. */
    public int $bytes = 0;

    /** @var array<string, string> archive key => why it did not give what it should */
    public array $failures = [];

    /** @var list<string> what the file systems cannot give as it was */
    public array $losses = [];

    /** @var list<array{FileSystem, FoundFile}> */
    private array $files = [];

    /** @var array<string, int> digest => number in the list of files */
    private array $byDigest = [];

    private ?ArchiveFile $archive = null;

    private function __construct()
    {
    }

    /**
     * @param  list<string>  $paths  as MachineTree::find() takes them; '' for all
     *
     * @throws CannotBring
     */
    public static function read(Points $points, SetOutline $point, array $paths, CopyRule $rule): self
    {
        $tree = new MachineTree($points, $point, $rule);
        $own = new self;
        foreach ($paths as $path) {
            foreach ($tree->below($path) as $at => $file) {
                $own->foldersAbove($tree, (string) $at);
                $own->add($tree, (string) $at, $file);
            }
        }
        $used = array_unique(array_map(fn (int|string $path): string => explode('/', (string) $path, 2)[0], array_keys($own->items)));
        foreach ($used as $name) {
            array_push(
                $own->losses,
                ...array_map(fn (string $loss): string => "$name: $loss", $tree->volumes()[$name]->files?->losses() ?? []),
            );
        }

        return $own;
    }

    private function foldersAbove(MachineTree $tree, string $path): void
    {
        [$folder] = EntryPath::split($path);
        if ($folder !== '' && ! isset($this->items[$folder])) {
            $this->foldersAbove($tree, $folder);
            $this->items[$folder] = $tree->find($folder)[1]->version->pack();
        }
    }

    private function add(MachineTree $tree, string $path, FoundFile $file): void
    {
        if (count($this->items) >= self::MOST) {
            throw CannotBring::because('More than '.number_format(self::MOST).' things are selected: bring them folder by folder.');
        }
        $version = $file->listed();
        $volume = $tree->volumes()[explode('/', $path, 2)[0]]->files;
        if ($version->kind === EntryKind::File && $volume !== null) {
            $version = $this->withDigest($volume, $file);
        }
        $this->items[$path] = $version->pack();
    }

    private function withDigest(FileSystem $volume, FoundFile $file): Version
    {
        $digest = new ContentDigest;
        $read = 0;
        try {
            foreach ($volume->content($file) as $bytes) {
                $digest->data($bytes);
                $read += strlen($bytes);
            }
        } catch (UnreadableVolume|UnreadableImage) {
            return Version::unknown();
        }
        $version = new Version(...['digest' => $digest->finish()] + get_object_vars($file->listed()));
        if ($read !== $version->size) {
            return Version::unknown();
        }
        if ($read > 0 && ! isset($this->byDigest[$version->digest])) {
            $this->byDigest[(string) $version->digest] = count($this->files);
            $this->files[] = [$volume, $file];
        }
        $this->bytes += $read;

        return $version;
    }

    public function placeOf(string $digest, array $failed = []): ?ContentPlace
    {
        $number = $failed === [] ? $this->byDigest[$digest] ?? null : null;
        $this->archive ??= VolumeArchive::of($this->files);

        return $number === null ? null : new ContentPlace(self::KEY, 0, $this->archive, VolumeArchive::place($number));
    }

    public function archiveFailed(string $archiveKey, string $because): void
    {
        $this->failures[$archiveKey] ??= $because;
    }

    /** The images are open in this process. */
    public function canBeReadTwice(array $archiveKeys): bool
    {
        return false;
    }
}
