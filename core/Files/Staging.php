<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\Place;
use Kaiseki\Core\Archive\TarEntry;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\Internal\SecondProcess;

/**
 * Brings a selection into the staging folder, on the file system of its target. Each archive is read once, front to back,
 * only the members needed; each content is compared with its digest as it comes in, and one that is wrong is taken from
 * another place.
 */
final class Staging
{
    /** Files of one content that are written at once. */
    private const AT_ONCE = 64;

    /** What is brought in one piece. */
    private const SMALL = 262_144;

    /** Fewer contents are not worth a second process. */
    private const WORTH_TWO = 1000;

    private const WRONG = 'a content in it is not what was cataloged: its digest differs';

    /** Where things are staged, with the slash behind it. */
    private readonly string $staging;

    /** @var list<LeftOut> */
    private array $leftOut = [];

    /** @var array<string, ReadAmount> archive key => what was read of it */
    private array $read = [];

    private readonly Owners $owners;

    private readonly AccessLists $lists;

    /** Whether something was staged before an interruption. */
    private bool $isGoingOn = false;

    /**
     * @var list<array{string, string}>|null archive and what is wrong with it, in a second process; null in the first, which tells the
     *     source
     */
    private ?array $damage = null;

    public function __construct(
        private readonly RestoreOrder $order,
        private Target $target,
        private readonly ContentSource $source,
        private readonly Progress $progress,
    ) {
        $this->owners = $target->owners();
        $this->lists = new AccessLists($order, $target);
        $this->staging = $order->staging().'/';
    }

    /**
     * What is there from before an interruption and is right, by its digest, is not brought again.
     *
     * @throws UnableToRestore if the target is full or cannot be written: what was staged is removed then; or if it is to stop: then it
     *     stays
     */
    public function fill(): void
    {
        $this->isGoingOn = $this->target->status($this->order->staging()) !== null;
        $this->target->makeFolder($this->order->staging());
        try {
            $byDigest = $this->makeWhatNeedsNoArchive();
            $this->readArchives($byDigest);
            if ($this->order->mayReplace()) {
                $this->target->sync(); // what is to be replaced goes only when its successor is on the disk
            }
        } catch (UnableToRestore $failure) {
            if (! $failure->isStop) {
                $this->clear();
            }
            throw $failure;
        }
    }

    /** Whether a file was staged before an interruption: its time is set when all of it is written. What is half there goes. */
    private function isThere(string $path, string $packed): bool
    {
        $staged = $this->staging.$path;
        $status = $this->isGoingOn ? $this->target->status($staged) : null;
        if ($status === null) {
            return false;
        }
        $version = Version::unpack($packed);
        if ($this->order->isSame($this->target, $staged, $status, $version)) {
            $this->progress->advanced(1, $version->size);

            return true;
        }
        $this->target->removeTree($staged);

        return false;
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

    /** @return array<string, ReadAmount> archive key => what was read of it */
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
            $staged = $this->staging.$path;
            try {
                if ($packed[0] === 'd') {
                    $this->target->makeFolder($staged);

                    continue;
                }
                $digest = Version::plainDigest($packed);
                if ($digest !== null && $this->isThere($path, $packed)) {
                    continue;
                }
                if ($digest !== null) {
                    // Mostly one file has a content: an array for each would take more than all else.
                    $byDigest[$digest] = isset($byDigest[$digest]) ? [...(array) $byDigest[$digest], $path] : $path;

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
                    $this->isGoingOn && $this->target->removeTree($staged);

                    continue;
                }
                if ($version->linkGroup !== 0) {
                    $groups[$version->linkGroup] = [$path];
                }
                $this->isGoingOn && $this->target->removeTree($staged); // names that share content come anew
                if ($version->kind === EntryKind::File && $version->size > 0) {
                    assert($version->digest !== null);
                    $byDigest[$version->digest] = isset($byDigest[$version->digest])
                        ? [...(array) $byDigest[$version->digest], $path]
                        : $path;

                    continue;
                }
                $this->target->makeFolder(EntryPath::split($staged)[0]);
                $this->makeSmall($staged, $version);
                $this->giveList($path, $version);
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
                $this->target->describe(
                    $staged,
                    null,
                    $this->owners->user($version),
                    $this->owners->group($version),
                    $version->mtime,
                    $owner,
                );
                break;
            case EntryKind::Fifo:
                $this->target->fifo($staged);
                $this->target->describe(
                    $staged,
                    $this->order->modeOf($version),
                    $this->owners->user($version),
                    $this->owners->group($version),
                    $version->mtime,
                    $owner,
                );
                break;
            default:
                $this->finish($this->target->createFile($staged), $version);
                $this->progress->advanced(1, 0);
        }
    }

    /** @param  array<array-key, string|list<string>>  $byDigest */
    private function readArchives(array $byDigest): void
    {
        $failed = [];
        while ($byDigest !== []) {
            [$work, $archives] = $this->inOrderOfReading($byDigest, $failed);
            $again = [];
            foreach ($this->readAll($work, $archives, $byDigest) as [$digest, $key]) {
                $failed[$digest][] = $key;
                $again[$digest] = $byDigest[$digest];
            }
            $byDigest = $again;
        }
        $this->makeLinks();
    }

    /**
     * @param  array<array-key, string|list<string>>  $byDigest
     * @param  array<array-key, list<string>>  $failed  digest => archives that did not give it
     * @return array{list<string>, array<array-key, ArchiveFile>} what is to be read, in the order of reading; archives by key
     */
    private function inOrderOfReading(array $byDigest, array $failed): array
    {
        $work = $archives = [];
        foreach ($byDigest as $digest => $paths) {
            $digest = (string) $digest;
            $place = $this->source->placeOf($digest, $failed[$digest] ?? []);
            if ($place === null) {
                foreach ((array) $paths as $path) {
                    $this->leftOut[] = new LeftOut(
                        $path,
                        isset($failed[$digest])
                            ? 'every archive that holds it is damaged there'
                            : 'its content is in no archive that can be read',
                        true,
                    );
                }

                continue;
            }
            $archives[$place->archiveKey] ??= $place->archive;
            $work[] =
                pack('NJJ', $place->order, $place->place->offset, $place->place->within).
                pack('C', strlen($place->archiveKey)).
                $place->archiveKey.
                $digest;
        }
        sort($work, SORT_STRING);

        return [$work, $archives];
    }

    /**
     * By two processes where there is enough of it, each with its own part of the archives.
     *
     * @param  list<string>  $work
     * @param  array<array-key, ArchiveFile>  $archives
     * @param  array<array-key, string|list<string>>  $byDigest
     * @return list<array{string, string}> digest and archive of what was not given
     */
    private function readAll(array $work, array $archives, array $byDigest): array
    {
        $half =
            SecondProcess::isPossible() && $this->source->canBeReadTwice(array_map(strval(...), array_keys($archives)))
                ? self::halfOf($work, $archives)
                : count($work);
        $twin = $half === count($work) ? null : $this->target->twin();
        $second =
            $twin === null
                ? null
                : SecondProcess::begin(function (callable $tell) use ($twin, $work, $half, $archives, $byDigest): array {
                    $this->target = $twin;

                    return $this->readSecond(array_slice($work, $half), $archives, $byDigest, $tell);
                });
        if ($second === null) {
            return $this->readSome($work, $archives, $byDigest, $this->progress);
        }
        $missed = $this->readSome(array_slice($work, 0, $half), $archives, $byDigest, new ProgressOfTwo($this->progress, $second));
        $result = $second->result($this->progress->advanced(...));
        foreach (ReadAmount::fromArrays($result['read']) as $key => $read) {
            ($this->read[$key] ??= new ReadAmount)->meanwhile($read);
        }
        foreach ($result['left_out'] as [$path, $because, $isLoss]) {
            $this->leftOut[] = new LeftOut($path, $because, $isLoss);
        }
        foreach ($result['damage'] as [$key, $because]) {
            $this->source->archiveFailed((string) $key, $because);
        }

        return [...$missed, ...$result['missed']];
    }

    /**
     * In the second process: what it would tell the source is brought home instead.
     *
     * @param  list<string>  $work
     * @param  array<array-key, ArchiveFile>  $archives
     * @param  array<array-key, string|list<string>>  $byDigest
     * @param  callable(int, int): void  $tell
     * @return array<mixed>
     */
    private function readSecond(array $work, array $archives, array $byDigest, callable $tell): array
    {
        $this->read = $this->damage = $this->leftOut = [];
        $progress = new CountedProgress($tell);
        $missed = $this->readSome($work, $archives, $byDigest, $progress);
        $progress->tell();

        return [
            'missed' => $missed,
            'read' => array_map(fn (ReadAmount $read): array => $read->jsonSerialize(), $this->read),
            'damage' => $this->damage,
            'left_out' => array_map(fn (LeftOut $left): array => [$left->path, $left->because, $left->isLoss], $this->leftOut),
        ];
    }

    /**
     * @param  list<string>  $work
     * @param  array<array-key, ArchiveFile>  $archives
     * @param  array<array-key, string|list<string>>  $byDigest
     * @return list<array{string, string}>
     */
    private function readSome(array $work, array $archives, array $byDigest, Progress $progress): array
    {
        $missed = [];
        $reading = new ArchiveReading;
        foreach ($work as $line) {
            $length = ord($line[20]);
            $key = substr($line, 21, $length);
            $digest = substr($line, 21 + $length);
            $at = unpack('Joffset/Jwithin', $line, 4);
            assert(is_array($at));
            if (
                ! $this->bring(
                    $reading,
                    new ContentPlace($key, 0, $archives[$key], new Place($at['offset'], $at['within'])),
                    $digest,
                    (array) $byDigest[$digest],
                    $progress,
                )
            ) {
                $missed[] = [$digest, $key];
            }
        }
        foreach ($this->target->settle() as $path => $failure) {
            $this->failed(substr((string) $path, strlen($this->staging)), $failure);
        }

        return $missed;
    }

    /**
     * Where the second half begins: at a place that can be read without what stands before it.
     *
     * @param  list<string>  $work
     * @param  array<array-key, ArchiveFile>  $archives
     */
    private static function halfOf(array $work, array $archives): int
    {
        $count = count($work);
        for ($half = $count < self::WORTH_TWO ? $count : intdiv($count, 2); $half < $count; $half++) {
            $archive = $archives[substr($work[$half], 21, ord($work[$half][20]))];
            // Another archive, another gzip member, or no gzip at all.
            if (! $archive->gzipped || strncmp($work[$half], $work[$half - 1], 12) !== 0) {
                break;
            }
        }

        return $half;
    }

    private function archiveFailed(string $key, string $because): void
    {
        if ($this->damage === null) {
            $this->source->archiveFailed($key, $because);
        } else {
            $this->damage[] = [$key, $because];
        }
    }

    /**
     * Reads one content into all files that hold it; false if the archive did not give it.
     *
     * @param  list<string>  $paths
     */
    private function bring(ArchiveReading $reading, ContentPlace $place, string $digest, array $paths, Progress $progress): bool
    {
        $size = Version::bytesOf($this->order->items[$paths[0]]);
        if ($size <= self::SMALL) {
            $isDone = $this->bringSmall($reading, $place, $digest, $paths, $size, $progress);
            if ($isDone !== null) {
                return $isDone;
            }
        }
        foreach (array_chunk($paths, self::AT_ONCE) as $chunk) {
            $files = [];
            $seconds = 0.0;
            try {
                foreach ($chunk as $path) {
                    try {
                        $this->target->makeFolder(EntryPath::split($this->staging.$path)[0]);
                        $files[$path] = $this->target->createFile($this->staging.$path);
                    } catch (UnableToRestore $failure) {
                        $this->failed($path, $failure);
                    }
                }
                $check = new ContentDigest;
                $began = hrtime(true);
                $member = $reading->read($place, $check, ...array_values($files));
                $seconds = (hrtime(true) - $began) / 1e9;
                $got = $check->finish();
                $because = $got === $digest ? null : self::WRONG;
            } catch (UnreadableArchive $damage) {
                $because = $damage->getMessage();
            }
            if ($because !== null) {
                foreach (array_keys($files) as $path) {
                    $this->target->remove($this->staging.$path);
                }
                $this->archiveFailed($place->archiveKey, $because);

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
                $this->giveList((string) $path, $version);
            }
            $this->wasRead($place, $size, $seconds, count($files), $progress);
        }

        return true;
    }

    /**
     * The same for what fits in memory: nothing is written before its digest is right.
     *
     * @param  list<string>  $paths
     * @return bool|null null if the member is no plain one, and must be read the other way
     */
    private function bringSmall(
        ArchiveReading $reading,
        ContentPlace $place,
        string $digest,
        array $paths,
        int $size,
        Progress $progress,
    ): ?bool {
        $began = hrtime(true);
        try {
            $bytes = $reading->plain($place, $size);
        } catch (UnreadableArchive $damage) {
            $this->archiveFailed($place->archiveKey, $damage->getMessage());

            return false;
        }
        if ($bytes === null) {
            return null;
        }
        $seconds = (hrtime(true) - $began) / 1e9;
        if (ContentDigest::of($bytes) !== $digest) {
            $this->archiveFailed($place->archiveKey, self::WRONG);

            return false;
        }
        $written = 0;
        foreach ($paths as $path) {
            $version = Version::unpack($this->order->items[$path]);
            $staged = $this->staging.$path;
            try {
                $this->target->makeFolder(EntryPath::split($staged)[0]);
                $this->target->putFile(
                    $staged,
                    $bytes,
                    $this->order->modeOf($version),
                    $this->owners->user($version),
                    $this->owners->group($version),
                    $version->mtime,
                    $this->owners->mayGiveAway,
                );
                $this->giveList($path, $version);
                $written++;
            } catch (UnableToRestore $failure) {
                $this->failed($path, $failure);
            }
        }
        $this->wasRead($place, $size, $seconds, $written, $progress);

        return true;
    }

    private function wasRead(ContentPlace $place, int $size, float $seconds, int $files, Progress $progress): void
    {
        ($this->read[$place->archiveKey] ??= new ReadAmount)->member($size, $seconds);
        $progress->advanced($files, $size * $files);
    }

    private function makeLinks(): void
    {
        foreach ($this->links as $paths) {
            $first = array_shift($paths);
            foreach ($paths as $path) {
                $staged = $this->staging.$path;
                try {
                    if ($this->target->status($this->staging.$first) === null) {
                        $this->leftOut[] = new LeftOut($path, 'its content is in no archive that can be read', true);

                        continue;
                    }
                    $this->target->makeFolder(EntryPath::split($staged)[0]);
                    $this->target->hardLink($this->staging.$first, $staged);
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
        $attributes = array_filter($member->extended, fn (string $keyword): bool => ! AccessList::isOfList($keyword), ARRAY_FILTER_USE_KEY);
        foreach ($isOwn && $attributes !== [] ? $file->extend($attributes) : [] as $refused) {
            $this->leftOut[] = new LeftOut(
                $path,
                'its attribute '.$refused.' is not taken by the target; the file itself came back',
                false,
            );
        }
    }

    private function giveList(string $path, Version $version): void
    {
        $because = $version->access === '' ? null : $this->lists->give($this->staging.$path, $version);
        if ($because !== null) {
            $this->leftOut[] = new LeftOut($path, "$because; the file itself came back", false);
        }
    }

    private function finish(NewFile $file, Version $version): void
    {
        $file->finish(
            $this->order->modeOf($version),
            $this->owners->user($version),
            $this->owners->group($version),
            $version->mtime,
            $this->owners->mayGiveAway,
        );
    }

    /** One thing that cannot be written is left out; a target that cannot be written ends the work. */
    private function failed(string $path, UnableToRestore $failure): void
    {
        if ($failure->targetIsUnfit) {
            throw $failure;
        }
        $this->leftOut[] = new LeftOut($path, $failure->getMessage(), true);
    }
}
