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
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Tree;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Proof\DigestLine;
use RuntimeException;

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

    /** @var array<string, array{string, Place, string}> inode => path, place and digest of its first name */
    private array $linked = [];

    public function __construct(private readonly FolderBelow $source, private readonly string $folder)
    {
    }

    /**
     * @param  Tree|null  $base  the tree at the base; null for a full
     * @param  SourceState  $before  the source as it was when the base was made
     * @param  callable(): SetRecord  $record  asked when everything has been read: only then is the end of the reading known
     * @return array{SetRecord, SourceState}
     *
     * @throws RuntimeException if it cannot be written; nothing is left of it then
     */
    public function write(string $name, ?Tree $base, SourceState $before, string $note, callable $record): array
    {
        $this->counts = new SetCounts;
        $this->now = SourceState::none();
        $endings = ['tar.gz', 'manifest.jsonl', 'b2sum', 'set.json'];
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
                    throw new RuntimeException('The set cannot be written: is the disk full?');
                }
            }
            $made = $record();
            $this->put($this->create("$name.set.json"), json_encode($made->toArray($this->counts, ContentDigest::ofFile("{$this->folder}/$name.tar.gz.partial") ?? throw new RuntimeException("$name.tar.gz cannot be read again."), (int) filesize("{$this->folder}/$name.tar.gz.partial")), JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR)."\n");
            foreach ($endings as $ending) {
                if (! rename("{$this->folder}/$name.$ending.partial", "{$this->folder}/$name.$ending")) {
                    throw new RuntimeException("The set $name cannot be given its name.");
                }
            }

            return [$made, $this->now];
        } catch (RuntimeException $failure) {
            foreach ($endings as $ending) {
                @unlink("{$this->folder}/$name.$ending.partial");
                @unlink("{$this->folder}/$name.$ending"); // no half set remains
            }
            throw $failure;
        }
    }

    /** All folders with their records first, as GNU tar writes them, then everything else. */
    private function writeTree(?Tree $base, SourceState $before): void
    {
        $walk = new SourceWalk($this->source);
        $files = [];
        foreach ($walk->folders() as $folder => $entries) {
            $names = [];
            foreach ($entries as $entry) {
                [, $name] = EntryPath::split($entry->path);
                $old = $entry->kind === EntryKind::Folder ? null : $this->unchanged($entry, $base, $before);
                $names[$name] = $entry->kind === EntryKind::Folder ? 'D' : ($old === null ? 'Y' : 'N');
                if ($entry->kind !== EntryKind::Folder) {
                    $files[] = ($old === null ? 'Y' : 'N').$entry->path;
                }
            }
            $own = $walk->entry($folder);
            if ($own !== null) {
                $place = $this->tar->begin(EntryKind::Folder, $folder === '' ? './' : './'.$folder, 0, $own->mode, $own->uid, $own->gid, $own->uname, $own->gname, $own->mtime, '', DumpDir::encode($names));
                $this->line($own, 'folder', null, $place);
            }
        }
        // Looked at once more when its turn comes, rather than kept in memory.
        foreach ($files as $i => $file) {
            unset($files[$i]);
            $entry = $walk->entry(substr($file, 1));
            $old = $file[0] === 'N' ? Version::unpack((string) $base?->at(substr($file, 1))) : null;
            match (true) {
                $entry === null => $this->gone(substr($file, 1)),
                $old !== null => $this->keep($entry, $old),
                default => $this->store($entry),
            };
        }
    }

    private function unchanged(SourceEntry $entry, ?Tree $base, SourceState $before): ?Version
    {
        $packed = $base?->at($entry->path);
        if ($packed === null || ! $before->isSame($entry)) {
            return null;
        }
        $old = Version::unpack($packed);
        $same = $old->kind === $entry->kind && $old->size === $entry->size && $old->mtime === $entry->mtime && $old->mode === $entry->mode
            && $old->uid === $entry->uid && $old->gid === $entry->gid && $old->linkTarget === $entry->linkTarget;

        return $same && ! $old->isUnknown() ? $old : null;
    }

    private function keep(SourceEntry $entry, Version $old): void
    {
        $this->now->note($entry);
        $this->line($entry, 'base', $old->digest, null);
    }

    private function store(SourceEntry $entry): void
    {
        $inode = "{$entry->device}:{$entry->inode}";
        if ($entry->kind === EntryKind::File && isset($this->linked[$inode])) {
            [$first, $place, $digest] = $this->linked[$inode];
            $this->tar->begin(EntryKind::HardLink, './'.$entry->path, 0, $entry->mode, $entry->uid, $entry->gid, $entry->uname, $entry->gname, $entry->mtime, './'.$first);
            $this->now->note($entry);
            $this->line($entry, 'here', $digest, $place);

            return;
        }
        $digest = null;
        if ($entry->kind === EntryKind::File) {
            $file = $this->source->read($entry->path);
            if ($file === null) {
                $this->gone($entry->path);

                return;
            }
            $place = $this->begin($entry);
            $digest = $this->content($file, $entry);
            if ($entry->links > 1) {
                $this->linked[$inode] = [$entry->path, $place, $digest];
            }
        } else {
            $place = $this->begin($entry);
        }
        $this->counts->stored++;
        $this->now->note($entry);
        $this->line($entry, 'here', $digest, $place);
    }

    private function gone(string $path): void
    {
        $this->counts->remarks[] = '"'.Shown::name($path).'" was gone, or could not be read, when its turn came.';
    }

    private function begin(SourceEntry $entry): Place
    {
        return $this->tar->begin($entry->kind, './'.$entry->path, $entry->size, $entry->mode, $entry->uid, $entry->gid, $entry->uname, $entry->gname, $entry->mtime, $entry->linkTarget);
    }

    /**
     * A file that shrank is filled up with zeros, one that grew is cut, as its header has its size already.
     *
     * @param  resource  $file
     */
    private function content($file, SourceEntry $entry): string
    {
        $digest = new ContentDigest;
        for ($left = $entry->size; $left > 0; $left -= strlen($bytes)) {
            $bytes = (string) fread($file, min(self::CHUNK, $left));
            if ($bytes === '') {
                $bytes = str_repeat("\0", min(self::CHUNK, $left));
                $this->counts->remarks[] = '"'.Shown::name($entry->path).'" became shorter while it was read; the rest is zeros.';
            }
            $digest->data($bytes);
            $this->tar->content($bytes);
        }
        fclose($file);

        return $digest->finish();
    }

    private function line(SourceEntry $entry, string $in, ?string $digest, ?Place $place): void
    {
        $this->counts->entries++;
        $path = './'.$entry->path;
        $utf8 = Shown::isUtf8($path) && Shown::isUtf8($entry->linkTarget);
        $line = ['path' => $utf8 ? $path : Shown::percentEncoded($path)] + ($utf8 ? [] : ['encoded' => true]) + [
            'type' => match ($entry->kind) {
                EntryKind::Folder => 'folder', EntryKind::Symlink => 'symlink', EntryKind::Fifo => 'fifo', default => 'file',
            },
            'size' => $entry->size, 'mode' => sprintf('%04o', $entry->mode), 'uid' => $entry->uid, 'gid' => $entry->gid, 'uname' => $entry->uname, 'gname' => $entry->gname,
            'mtime' => sprintf('%d.%09d', intdiv($entry->mtime, 1_000_000_000), abs($entry->mtime % 1_000_000_000)),
        ];
        if ($entry->linkTarget !== '') {
            $line['target'] = $utf8 ? $entry->linkTarget : Shown::percentEncoded($entry->linkTarget);
        }
        if ($entry->links > 1 && $entry->kind === EntryKind::File) {
            $line['links'] = "{$entry->device}:{$entry->inode}";
        }
        if ($digest !== null) {
            $line['blake2b_256'] = bin2hex($digest);
        }
        if ($entry->kind !== EntryKind::Folder) {
            $line['in'] = $in;
        }
        if ($place !== null) {
            $line['member'] = $place->offset;
            $line['within'] = $place->within;
        }
        $this->put($this->manifest, json_encode($line, JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR)."\n");
        if ($digest !== null) {
            $this->put($this->sums, DigestLine::of($digest, $path));
        }
    }

    /** @return resource */
    private function create(string $name)
    {
        return @fopen("{$this->folder}/$name.partial", 'wb') ?: throw new RuntimeException("The set cannot be written to {$this->folder}.");
    }

    /** @param  resource  $file */
    private function put($file, string $bytes): void
    {
        if (@fwrite($file, $bytes) !== strlen($bytes)) {
            throw new RuntimeException('The set cannot be written: is the disk full?');
        }
    }
}
