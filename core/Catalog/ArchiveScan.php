<?php

declare(strict_types=1);

namespace Kaiseki\Core\Catalog;

use Closure;
use InvalidArgumentException;
use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\DumpDir;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\TarEntry;
use Kaiseki\Core\Archive\TarReader;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Doubt\TextureSample;
use Kaiseki\Core\Protect\Exclusions;

/** What stands in one archive: its members with their digests and places, and its folder records. */
final class ArchiveScan
{
    /** Text and tables stay far below; deflate can reach 1032, which only empty disks and archives made to do harm come near. */
    public const MOST_TIMES = 200;

    /** Of what was there and left out on purpose. In an archive N says so, as it does of what did not change. */
    public const EXCLUDED = 'E';

    /** @var array<array-key, string> path => packed version, in the order of the archive */
    public array $members = [];

    /** @var array<array-key, array<array-key, string>> folder path => name => Y, N, D or EXCLUDED */
    public array $folders = [];

    /** @var list<array{string, string}> R, T and X records of all folders, with paths of the tree */
    public array $moves = [];

    /** @var list<string> packed places, see PlaceIndex */
    public array $places = [];

    /** @var list<string> what is wrong with the archive, or was passed over, in words that follow its name */
    public array $problems = [];

    /** Whether everything that the archive once held was read. */
    public bool $whole = true;

    /** @var list<array{string, string}> path and digest of the harmless file that scanners are tested with */
    public array $testFiles = [];

    /** Whether anything in it has an access list: then whoever made it kept them. */
    public bool $hasLists = false;

    public int $count = 0;

    /** Whether a member can be read without inflating all that stands before it. */
    public bool $seekable = true;

    private function __construct()
    {
    }

    /**
     * Reads the archive to its end, or to where it is damaged: what was sound until there counts.
     *
     * @param  callable(int): void|null  $progress  told the members read so far, now and then
     * @param  int  $mostTimes  how many times its size a gzipped archive may unpack to
     *
     * @throws UnreadableArchive if not even one member could be read
     */
    public static function read(ArchiveFile $archive, ?callable $progress = null, int $mostTimes = self::MOST_TIMES): self
    {
        $scan = new self;
        $stream = $archive->open(0, $mostTimes);
        $reader = new TarReader($stream);
        $ends = $offsets = [];
        try {
            while (($entry = $reader->next()) !== null) {
                $scan->take($entry, $reader);
                if ($entry->kind !== EntryKind::HardLink && count($offsets) < 2) {
                    $offsets[$entry->place->offset] = true;
                }
                if ($archive->gzipped) {
                    $ends[] = $stream->position();
                }
                if (++$scan->count % 2000 === 0 && $progress !== null) {
                    $progress($scan->count);
                }
            }
        } catch (UnreadableArchive $damage) {
            $scan->whole = false;
            $scan->problems[] = $damage->getMessage();
            $scan->distrustFrom($damage->soundUntil, $ends);
            if ($scan->members === [] && $scan->folders === []) {
                throw $damage;
            }
        }
        foreach ($reader->problems() as $problem) {
            $scan->problems[] = $problem;
            $scan->whole = false;
        }
        $scan->seekable = ! $archive->gzipped || count($offsets) > 1;

        return $scan;
    }

    /**
     * The same from the manifest that Kaiseki wrote beside an archive, without reading that.
     *
     * @param  iterable<string>  $lines
     *
     * @throws InvalidArgumentException if it is not a manifest
     */
    public static function ofManifest(iterable $lines): self
    {
        $scan = new self;
        $linked = $offsets = [];
        foreach ($lines as $json) {
            $line = ManifestLine::parse($json);
            $version = $line->version;
            [$folder, $name] = EntryPath::split($line->path);
            if ($line->path !== '') {
                $scan->folders[$folder][$name] = match ($version->kind) {
                    EntryKind::Folder => 'D',
                    EntryKind::Excluded => self::EXCLUDED,
                    default => $line->isHere ? 'Y' : 'N',
                };
            }
            if (! $line->isHere || $version->kind === EntryKind::Excluded) {
                continue;
            }
            $scan->count++;
            if ($line->links === null || ! isset($linked[$line->links])) {
                $offsets[$line->place->offset ?? 0] = true;
            }
            if ($version->kind === EntryKind::Folder) {
                $scan->folders[$line->path] ??= [];
            } elseif ($line->links !== null && isset($linked[$line->links])) {
                $scan->link($line->path, $linked[$line->links]);

                continue;
            } elseif ($line->links !== null) {
                $linked[$line->links] = $line->path;
            }
            $scan->members[$line->path] = $version->pack();
            $scan->hasLists = $scan->hasLists || $version->access !== '';
            if ($version->digest !== null && $version->size > 0 && $line->place !== null) {
                $scan->places[] = PlaceIndex::pack($version->digest, $line->place, $version->size);
            }
        }
        $scan->seekable = count($offsets) > 1;

        return $scan;
    }

    /** Tells what was left out on purpose, by what is recorded of that, from what did not change. */
    public function leaveOut(Exclusions $excluded): void
    {
        foreach ($excluded->all === [] ? [] : $this->folders as $folder => $names) {
            foreach ($names as $name => $code) {
                if ($code === 'N' && $excluded->at(EntryPath::join((string) $folder, (string) $name)) !== null) {
                    $this->folders[$folder][$name] = self::EXCLUDED;
                }
            }
        }
    }

    /**
     * Sets written before 2026-11-30 have manifests in which a content in the middle of a member is told by the bytes written until then,
     * instead of where its member begins.
     *
     * @param  Closure(int): bool  $begins  whether a member begins at an offset of the archive
     */
    public function mendPlaces(Closure $begins): void
    {
        $at = fn (string $packed): int => unpack('J', $packed, PlaceIndex::DIGEST)[1] ?? 0;
        $offsets = array_values(array_unique(array_map($at, $this->places)));
        sort($offsets);
        $right = [];
        $last = 0;
        foreach ($offsets as $offset) {
            $right[$offset] = $last = $begins($offset) ? $offset : $last;
        }
        $this->places = array_map(
            fn (string $packed): string => substr_replace($packed, pack('J', $right[$at($packed)]), PlaceIndex::DIGEST, 8),
            $this->places,
        );
    }

    private function take(TarEntry $entry, TarReader $reader): void
    {
        try {
            $path = EntryPath::of($entry->path);
            $target = $entry->kind === EntryKind::HardLink ? EntryPath::of($entry->linkTarget) : $entry->linkTarget;
        } catch (UnsafePath $unsafe) {
            $this->problems[] = lcfirst($unsafe->getMessage());

            return;
        }
        if ($entry->kind === EntryKind::HardLink) {
            $this->link($path, $target);

            return;
        }
        if ($path === '' && $entry->kind !== EntryKind::Folder) {
            $this->problems[] = 'it holds a member without a name; that is left out';

            return;
        }
        [$digest, $texture] = $entry->kind === EntryKind::File ? $this->readContent($path, $entry, $reader) : [null, 0];
        $access = AccessList::textOfMember($entry->extended);
        $this->hasLists = $this->hasLists || $access !== '';
        $this->members[$path] = (new Version(
            $entry->kind,
            $entry->size,
            $entry->mtime,
            $digest,
            $entry->mode,
            self::id($entry->uid),
            self::id($entry->gid),
            $entry->uname,
            $entry->gname,
            $entry->kind === EntryKind::Symlink ? $target : '',
            0,
            $entry->pieces !== null,
            $texture,
            $access,
        ))->pack();
        if ($entry->dumpDir !== null) {
            $this->takeFolder($path, $entry->dumpDir);
        }
    }

    /** @return array{string, int} digest, and code of its texture */
    private function readContent(string $path, TarEntry $entry, TarReader $reader): array
    {
        $content = new ContentDigest;
        $sample = TextureSample::isWorthwhile($entry->size) ? new TextureSample : null;
        $sample === null ? $reader->content($entry, $content) : $reader->content($entry, $content, $sample);
        $digest = $content->finish();
        if ($sample?->isTestFile() === true) {
            $this->testFiles[] = [$path, $digest];
        }
        if ($entry->size > 0) {
            $this->places[] = PlaceIndex::pack($digest, $entry->place, $entry->size);
        }

        return [$digest, $sample?->texture()->code ?? 0];
    }

    private function takeFolder(string $path, DumpDir $dumpDir): void
    {
        $this->folders[$path] = $dumpDir->names;
        foreach ($dumpDir->moves as [$code, $moved]) {
            try {
                $this->moves[] = [$code, EntryPath::of($moved)];
            } catch (UnsafePath $unsafe) {
                $this->problems[] = lcfirst($unsafe->getMessage());
            }
        }
    }

    /** A second name of a file that stands before it in the archive. */
    private function link(string $path, string $target): void
    {
        $first = $this->members[$target] ?? null;
        if ($first === null || $first[0] === 'd' || $path === '') {
            $this->members[$path] = Version::unknown()->pack();
            $this->problems[] = 'it links "'.Shown::name($path).'" to "'.Shown::name($target).'", which it does not hold';

            return;
        }
        $version = Version::unpack($first);
        if ($version->linkGroup === 0) {
            $version = self::inGroup($version, self::groupOf($target, $version));
            $this->members[$target] = $version->pack();
        }
        $this->members[$path] = $this->members[$target];
    }

    /** A number that is the same for all names of one file, and stays while its content and time do. */
    private static function groupOf(string $target, Version $version): int
    {
        $hash = unpack('J', sodium_crypto_generichash($target."\0".$version->pack()));

        return (($hash[1] ?? 1) & PHP_INT_MAX) | 1;
    }

    private static function inGroup(Version $v, int $group): Version
    {
        return new Version(...['linkGroup' => $group] + get_object_vars($v));
    }

    /**
     * The checksum of a gzip member could not be confirmed: what was read of it may be wrong, so no content in it counts.
     *
     * @param  list<int>  $ends  uncompressed position behind the headers and content of each member
     */
    private function distrustFrom(int $position, array $ends): void
    {
        if ($ends === [] || $ends[array_key_last($ends)] <= $position) {
            return;
        }
        $sound = 0;
        while ($ends[$sound] <= $position) {
            $sound++;
        }
        $suspect = [];
        $index = 0;
        foreach ($this->members as $path => $packed) {
            if ($index++ >= $sound && $packed[0] === 'f') {
                $version = Version::unpack($packed);
                if ($version->digest !== null) {
                    $suspect[$version->digest] = true;
                }
                $this->members[$path] = Version::unknown()->pack();
            }
        }
        $this->places = array_values(array_filter($this->places, fn (string $place): bool => ! isset($suspect[substr($place, 0, 32)])));
    }

    private static function id(int $id): int
    {
        return max(0, min(0xFFFFFFFF, $id));
    }
}
