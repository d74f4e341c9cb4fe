<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\DumpDir;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Archive\Place;
use Kaiseki\Core\Archive\TarWriter;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\ManifestLine;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Tree;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Doubt\TextureSample;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Files\Seen;
use Kaiseki\Core\Proof\DigestLine;
use Kaiseki\Core\UnableToWrite;
use RuntimeException;
use SplQueue;

/**
 * Makes one set of a folder tree: NAME.tar.gz that GNU tar extracts with --listed-incremental=/dev/null, and beside it
 * NAME.manifest.jsonl, NAME.b2sum and NAME.set.json. All are written under other names first; NAME.set.json comes last.
 */
final class SetWriter
{
    private const CHUNK = 262144;

    /** @var resource */
    private $manifest;

    /** @var resource */
    private $sums;

    private TarWriter $tar;

    private SetCounts $counts;

    private SourceState $now;

    /** @var array<string, array{string, Place, string, int}> inode => path, place, digest and texture of its first name */
    private array $linked = [];

    public function __construct(
        private readonly Look $source,
        private readonly string $folder,
        private readonly Exclusions $exclusions = new Exclusions,
    ) {
    }

    /**
     * @param  Tree|null  $base  the tree at the base; null for a full
     * @param  SourceState  $before  the source as it was when the base was made
     * @param  callable(): SetRecord  $record  asked when everything has been read: only then is the end of the reading known
     * @return array{SetRecord, SourceState}
     *
     * @throws RuntimeException if it cannot be written, or one of that name is there; nothing is left of it then
     */
    public function write(string $name, ?Tree $base, SourceState $before, string $note, callable $record): array
    {
        $this->counts = new SetCounts;
        $this->now = SourceState::none();
        $endings = ['tar.gz', 'manifest.jsonl', 'b2sum', 'set.json'];
        foreach ($endings as $ending) {
            file_exists("{$this->folder}/$name.$ending") && throw UnableToWrite::isThere("{$this->folder}/$name.$ending");
        }
        $named = [];
        try {
            $archive = $this->create("$name.tar.gz");
            $this->manifest = $this->create("$name.manifest.jsonl");
            $this->sums = $this->create("$name.b2sum");
            $this->tar = new TarWriter(new GzipMemberWriter($archive));
            $this->tar->note($note);
            $this->writeTree($base, $before);
            $this->tar->end();
            foreach ([$archive, $this->manifest, $this->sums] as $file) {
                if (! fflush($file) || ! fsync($file)) {
                    throw UnableToWrite::full($this->folder, 'The set');
                }
            }
            $made = $record();
            $digest = fn (string $file): string => ContentDigest::ofFile("{$this->folder}/$file.partial") ??
                throw UnableToWrite::readAgain($file);
            $about = $made->toArray(
                $this->counts,
                "$name.tar.gz",
                $digest("$name.tar.gz"),
                (int) filesize("{$this->folder}/$name.tar.gz.partial"),
                $digest("$name.manifest.jsonl"),
            );
            $this->put(
                $this->create("$name.set.json"),
                json_encode($about, JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR)."\n",
            );
            foreach ($endings as $ending) {
                if (! rename("{$this->folder}/$name.$ending.partial", "{$this->folder}/$name.$ending")) {
                    throw UnableToWrite::named($this->folder, "The set $name");
                }
                $named[] = $ending;
            }

            return [$made, $this->now];
        } catch (RuntimeException $failure) {
            foreach ($endings as $ending) {
                @unlink("{$this->folder}/$name.$ending.partial");
            }
            foreach ($named as $ending) {
                @unlink("{$this->folder}/$name.$ending"); // no half set remains
            }
            throw $failure;
        }
    }

    /** All folders with their records first, as GNU tar writes them, then everything else. */
    private function writeTree(?Tree $base, SourceState $before): void
    {
        $walk = new SourceWalk($this->source, $this->exclusions);
        $files = [];
        foreach ($walk->folders() as $folder) {
            // As tar(1) says it of what was excluded: whoever extracts over a tree keeps what stands there.
            $names = array_fill_keys($folder->leftOut, 'N');
            foreach ($folder->entries as $entry) {
                [, $name] = EntryPath::split($entry->path);
                $old = $entry->kind === EntryKind::Folder ? null : $this->unchanged($entry, $base, $before);
                $names[$name] = $entry->kind === EntryKind::Folder ? 'D' : ($old === null ? 'Y' : 'N');
                if ($entry->kind !== EntryKind::Folder) {
                    $files[] = ($old === null ? 'Y' : 'N').$entry->path;
                }
            }
            $this->writeFolder($folder, $names, $walk->entry($folder->path));
        }
        // Looked at once more when its turn comes, rather than kept in memory.
        $isOld = new SplQueue;
        $asked = (function () use (&$files, $isOld): iterable {
            foreach ($files as $i => $file) {
                unset($files[$i]);
                $isOld->enqueue($file[0] === 'N');
                yield [substr($file, 1), $file[0] === 'N' ? 0 : Seen::BYTES | Seen::ACCESS];
            }
        })();
        foreach ($this->source->many($asked) as $seen) {
            $entry = $walk->entryOf($seen);
            $old = $isOld->dequeue() ? Version::unpack((string) $base?->at($seen->path)) : null;
            match (true) {
                $entry === null => $this->gone($seen->path),
                $old !== null => $this->keep($entry, $old),
                default => $this->store($entry, $seen->bytes),
            };
        }
    }

    /**
     * @param  array<array-key, string>  $names  what lies in it => how it is there, as GNU tar says it
     * @param  SourceEntry|null  $own  null if it is gone meanwhile
     */
    private function writeFolder(SourceFolder $folder, array $names, ?SourceEntry $own): void
    {
        ksort($names, SORT_STRING);
        if ($own !== null) {
            $place = $this->tar->begin(
                EntryKind::Folder,
                $folder->path === '' ? './' : './'.$folder->path,
                0,
                $own->mode,
                $own->uid,
                $own->gid,
                $own->uname,
                $own->gname,
                $own->mtime,
                '',
                DumpDir::encode($names),
                $own->extended,
            );
            $this->line($own, true, null, $place);
        }
        foreach ($folder->leftOut as $name) {
            $none = new Version(EntryKind::Excluded, 0, 0, null, 0, 0, 0, '', '');
            $this->put($this->manifest, (new ManifestLine(EntryPath::join($folder->path, $name), $none, false))->json());
        }
    }

    private function unchanged(SourceEntry $entry, ?Tree $base, SourceState $before): ?Version
    {
        $packed = $base?->at($entry->path);
        if ($packed === null || ! $before->isSame($entry)) {
            return null;
        }
        $old = Version::unpack($packed);
        $same =
            $old->kind === $entry->kind &&
            $old->size === $entry->size &&
            $old->mtime === $entry->mtime &&
            $old->mode === $entry->mode &&
            $old->uid === $entry->uid &&
            $old->gid === $entry->gid &&
            $old->linkTarget === $entry->linkTarget;

        return $same && ! $old->isUnknown() ? $old : null;
    }

    private function keep(SourceEntry $entry, Version $old): void
    {
        $this->now->note($entry);
        $this->line($entry, false, $old->digest, null, $old->texture, $old->access);
    }

    private function store(SourceEntry $entry, ?string $bytes): void
    {
        $inode = "{$entry->device}:{$entry->inode}";
        if ($entry->kind === EntryKind::File && isset($this->linked[$inode])) {
            [$first, $place, $digest, $texture] = $this->linked[$inode];
            $this->tar->begin(
                EntryKind::HardLink,
                './'.$entry->path,
                0,
                $entry->mode,
                $entry->uid,
                $entry->gid,
                $entry->uname,
                $entry->gname,
                $entry->mtime,
                './'.$first,
            );
            $this->now->note($entry);
            $this->line($entry, true, $digest, $place, $texture);

            return;
        }
        $digest = null;
        $texture = 0;
        if ($entry->kind === EntryKind::File) {
            $file = $bytes ?? $this->source->read($entry->path);
            if ($file === null) {
                $this->gone($entry->path);

                return;
            }
            $place = $this->begin($entry);
            [$digest, $texture] = $this->content($file, $entry);
            if ($entry->links > 1) {
                $this->linked[$inode] = [$entry->path, $place, $digest, $texture];
            }
        } else {
            $place = $this->begin($entry);
        }
        $this->counts->stored++;
        $this->now->note($entry);
        $this->line($entry, true, $digest, $place, $texture);
    }

    private function gone(string $path): void
    {
        $this->counts->remarks[] = '"'.Shown::name($path).'" was gone, or could not be read, when its turn came.';
    }

    private function begin(SourceEntry $entry): Place
    {
        return $this->tar->begin(
            $entry->kind,
            './'.$entry->path,
            $entry->size,
            $entry->mode,
            $entry->uid,
            $entry->gid,
            $entry->uname,
            $entry->gname,
            $entry->mtime,
            $entry->linkTarget,
            null,
            $entry->extended,
        );
    }

    /**
     * A file that shrank is filled up with zeros, one that grew is cut, as its header has its size already.
     *
     * @param  resource|string  $file  open for reading, or its content
     * @return array{string, int} digest and texture
     */
    private function content($file, SourceEntry $entry): array
    {
        $digest = new ContentDigest;
        $sample = new TextureSample;
        for ($left = $entry->size; $left > 0; $left -= strlen($bytes)) {
            $length = min(self::CHUNK, $left);
            $bytes = is_string($file) ? substr($file, $entry->size - $left, $length) : (string) fread($file, $length);
            if ($bytes === '') {
                $bytes = str_repeat("\0", min(self::CHUNK, $left));
                $this->counts->remarks[] = '"'.Shown::name($entry->path).'" became shorter while it was read; the rest is zeros.';
            }
            $digest->data($bytes);
            $sample->data($bytes);
            $this->tar->content($bytes);
        }
        is_string($file) || fclose($file);

        return [$digest->finish(), $sample->texture()->code];
    }

    private function line(SourceEntry $entry, bool $isHere, ?string $digest, ?Place $place, int $texture = 0, ?string $access = null): void
    {
        $this->counts->entries++;
        $version = new Version(
            $entry->kind,
            $entry->size,
            $entry->mtime,
            $digest,
            $entry->mode,
            $entry->uid,
            $entry->gid,
            $entry->uname,
            $entry->gname,
            $entry->linkTarget,
            0,
            false,
            $texture,
            $access ?? $entry->access,
        );
        $links = $entry->links > 1 && $entry->kind === EntryKind::File ? "{$entry->device}:{$entry->inode}" : null;
        $this->put($this->manifest, (new ManifestLine($entry->path, $version, $isHere, $place, $links))->json());
        if ($digest !== null) {
            $this->put($this->sums, DigestLine::of($digest, './'.$entry->path));
        }
    }

    /** @return resource */
    private function create(string $name)
    {
        return @fopen("{$this->folder}/$name.partial", 'wb') ?: throw UnableToWrite::open($this->folder, 'The set in');
    }

    /** @param  resource  $file */
    private function put($file, string $bytes): void
    {
        if (@fwrite($file, $bytes) !== strlen($bytes)) {
            throw UnableToWrite::full($this->folder, 'The set');
        }
    }
}
