<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\TarEntry;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\Version;

/**
 * Brings a selection into the staging folder, on the file system of its target. Each archive is read once, front to back,
 * only the members needed; each content is compared with its digest as it comes in, and one that is wrong is taken from
 * another place.
 */
final class Staging
{
    /** Files of one content that are written at once. */
    private const AT_ONCE = 64;

    /** @var list<LeftOut> */
    private array $leftOut = [];

    /** @var array<string, array{bytes: int, members: int, seconds: float}> archive key => what was read of it */
    private array $read = [];

    private readonly Owners $owners;

    public function __construct(private readonly RestoreOrder $order, private readonly Target $target, private readonly ContentSource $source, private readonly Progress $progress)
    {
        $this->owners = $target->owners();
    }

    /** @throws UnableToRestore if the target is full or cannot be written; what was staged is removed then */
    public function fill(): void
    {
        $this->clear();
        $this->target->makeFolder($this->order->staging());
        try {
            $byDigest = $this->makeWhatNeedsNoArchive();
            $this->readArchives($byDigest);
            if ($this->order->mayReplace()) {
                $this->target->sync(); // what is to be replaced goes only when its successor is on the disk
            }
        } catch (UnableToRestore $failure) {
            $this->clear();
            throw $failure;
        }
    }

    public function clear(): void
    {
        $this->target->removeTree($this->order->staging());
    }

    /** @return list<LeftOut> */
    public function leftOut(): array
    {
        return $this->leftOut;
    }

    /** @return array<string, array{bytes: int, members: int, seconds: float}> archive key => what was read of it */
    public function whatWasRead(): array
    {
        return $this->read;
    }

    /** @return array<string, string|list<string>> digest => path, or paths, of files that hold it; of linked names the first only */
    private function makeWhatNeedsNoArchive(): array
    {
        $byDigest = [];
        $groups = [];
        foreach ($this->order->items as $path => $packed) {
            $path = (string) $path;
            if ($path === '') {
                continue;
            }
            $staged = $this->order->staging().'/'.$path;
            try {
                if ($packed[0] === 'd') {
                    $this->target->makeFolder($staged);

                    continue;
                }
                $version = Version::unpack($packed);
                $left = RestoreOrder::leftOut($path, $version);
                if ($left !== null) {
                    $this->leftOut[] = $left;

                    continue;
                }
                if ($version->linkGroup !== 0 && isset($groups[$version->linkGroup])) {
                    $groups[$version->linkGroup][] = $path;

                    continue;
                }
                if ($version->linkGroup !== 0) {
                    $groups[$version->linkGroup] = [$path];
                }
                if ($version->kind === EntryKind::File && $version->size > 0) {
                    assert($version->digest !== null);
                    // Mostly one file has a content: an array for each would take more than all else.
                    $byDigest[$version->digest] = isset($byDigest[$version->digest]) ? [...(array) $byDigest[$version->digest], $path] : $path;

                    continue;
                }
                $this->target->makeFolder(self::above($staged));
                $this->makeSmall($staged, $version);
            } catch (UnableToRestore $failure) {
                $this->failed($path, $failure);
            }
        }
        $this->links = array_filter($groups, fn (array $paths): bool => count($paths) > 1);

        return $byDigest;
    }

    /** @var array<int, list<string>> link group => paths, the first of which has the content */
    private array $links = [];

    private function makeSmall(string $staged, Version $version): void
    {
        $owner = $this->owners->mayGiveAway;
        switch ($version->kind) {
            case EntryKind::Symlink:
                $this->target->symlink($version->linkTarget, $staged);
                $this->target->describe($staged, null, $this->owners->user($version), $this->owners->group($version), $version->mtime, $owner);
                break;
            case EntryKind::Fifo:
                $this->target->fifo($staged);
                $this->target->describe($staged, $this->order->modeOf($version), $this->owners->user($version), $this->owners->group($version), $version->mtime, $owner);
                break;
            default:
                $this->finish($this->target->createFile($staged), $version);
                $this->progress->advanced(1, 0);
        }
    }

    /** @param  array<string, list<string>>  $byDigest */
    private function readArchives(array $byDigest): void
    {
        $failed = [];
        while ($byDigest !== []) {
            $work = [];
            $places = [];
            foreach ($byDigest as $digest => $paths) {
                $digest = (string) $digest;
                $place = $this->source->placeOf($digest, $failed[$digest] ?? []);
                if ($place === null) {
                    foreach ((array) $paths as $path) {
                        $this->leftOut[] = new LeftOut($path, isset($failed[$digest]) ? 'every archive that holds it is damaged there' : 'its content is in no archive that can be read', true);
                    }

                    continue;
                }
                $places[$place->archiveKey] ??= $place;
                $work[] = pack('NJJ', $place->order, $place->place->offset, $place->place->within).pack('C', strlen($place->archiveKey)).$place->archiveKey.$digest;
            }
            $again = [];
            sort($work, SORT_STRING);
            $reading = new ArchiveReading;
            foreach ($work as $line) {
                $length = ord($line[20]);
                $key = substr($line, 21, $length);
                $digest = substr($line, 21 + $length);
                $at = unpack('Joffset/Jwithin', $line, 4);
                assert(is_array($at));
                $place = new ContentPlace($key, 0, $places[$key]->archive, new \Kaiseki\Core\Archive\Place($at['offset'], $at['within']));
                if (! $this->bring($reading, $place, $digest, (array) $byDigest[$digest])) {
                    $failed[$digest][] = $key;
                    $again[$digest] = $byDigest[$digest];
                }
            }
            $byDigest = $again;
        }
        $this->makeLinks();
    }

    /**
     * Reads one content into all files that hold it; false if the archive did not give it.
     *
     * @param  list<string>  $paths
     */
    private function bring(ArchiveReading $reading, ContentPlace $place, string $digest, array $paths): bool
    {
        foreach (array_chunk($paths, self::AT_ONCE) as $chunk) {
            $files = [];
            $seconds = 0.0;
            try {
                foreach ($chunk as $path) {
                    try {
                        $this->target->makeFolder(self::above($this->order->staging().'/'.$path));
                        $files[$path] = $this->target->createFile($this->order->staging().'/'.$path);
                    } catch (UnableToRestore $failure) {
                        $this->failed($path, $failure);
                    }
                }
                $check = new ContentDigest;
                $began = hrtime(true);
                $member = $reading->read($place, $check, ...array_values($files));
                $seconds = (hrtime(true) - $began) / 1e9;
                $got = $check->finish();
                $because = $got === $digest ? null : 'a content in it is not what was cataloged: its digest differs';
            } catch (UnreadableArchive $damage) {
                $because = $damage->getMessage();
            }
            if ($because !== null) {
                foreach (array_keys($files) as $path) {
                    $this->target->remove($this->order->staging().'/'.$path);
                }
                $this->source->archiveFailed($place->archiveKey, $because);

                return false;
            }
            $size = 0;
            foreach ($files as $path => $file) {
                $version = Version::unpack($this->order->items[$path]);
                $size = $version->size;
                if ($member->extended !== []) {
                    $this->extend((string) $path, $file, $member);
                }
                $this->finish($file, $version);
            }
            $this->read[$place->archiveKey] ??= ['bytes' => 0, 'members' => 0, 'seconds' => 0.0];
            $this->read[$place->archiveKey]['bytes'] += $size;
            $this->read[$place->archiveKey]['members']++;
            $this->read[$place->archiveKey]['seconds'] += $seconds;
            $this->progress->advanced(count($files), $size * count($files));
        }

        return true;
    }

    private function makeLinks(): void
    {
        foreach ($this->links as $paths) {
            $first = array_shift($paths);
            foreach ($paths as $path) {
                $staged = $this->order->staging().'/'.$path;
                try {
                    if ($this->target->status($this->order->staging().'/'.$first) === null) {
                        $this->leftOut[] = new LeftOut($path, 'its content is in no archive that can be read', true);

                        continue;
                    }
                    $this->target->makeFolder(self::above($staged));
                    $this->target->hardLink($this->order->staging().'/'.$first, $staged);
                    $this->progress->advanced(1, 0);
                } catch (UnableToRestore $failure) {
                    $this->failed($path, $failure);
                }
            }
        }
    }

    /** What the member holds beyond the rest is that of the file of its own name only. */
    private function extend(string $path, NewFile $file, TarEntry $member): void
    {
        $isOwn = ltrim(preg_replace('~^(?:\./+)+~', '', $member->path) ?? '', '/') === $path;
        foreach ($isOwn ? $file->extend($member->extended) : [] as $refused) {
            $this->leftOut[] = new LeftOut($path, 'its attribute '.$refused.' is not taken by the target; the file itself came back', false);
        }
    }

    private function finish(NewFile $file, Version $version): void
    {
        $file->finish($this->order->modeOf($version), $this->owners->user($version), $this->owners->group($version), $version->mtime, $this->owners->mayGiveAway);
    }

    /** One thing that cannot be written is left out; a target that cannot be written ends the work. */
    private function failed(string $path, UnableToRestore $failure): void
    {
        if ($failure->targetIsUnfit) {
            throw $failure;
        }
        $this->leftOut[] = new LeftOut($path, $failure->getMessage(), true);
    }

    private static function above(string $path): string
    {
        $slash = strrpos($path, '/');

        return $slash === false ? '' : substr($path, 0, $slash);
    }
}
