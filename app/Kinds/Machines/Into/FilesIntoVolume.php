<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Into;

use App\Kinds\Machines\Order\CannotBring;
use App\Words;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Files\LeftOut;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\UnableToWrite;
use Kaiseki\Core\Volume\FileSystem;
use Kaiseki\Core\Volume\FoundFile;

/** Files that are to go into one volume: what stands there is looked at, the commands that bring them are made, and what came is read. */
final class FilesIntoVolume
{
    /** Blocks that are left free: folders and maps of large files take some as well. */
    private const SPARE = 32;

    private readonly FileSystem $now;

    /** @var list<string> of debugfs */
    private array $commands = [];

    /** @var array<array-key, array{FoundFile, string|null}> path => what is to be there, and the digest of its content */
    private array $wanted = [];

    /** @var array<array-key, true> folders that are made */
    private array $made = [];

    /** @var array<int, array{string, int}> node of the point => the first of its names that was brought, and how many were */
    private array $linked = [];

    /** @var list<LeftOut> */
    public array $leftOut = [];

    public int $files = 0;

    public int $bytes = 0;

    private int $blocks = 0;

    private int $number = 0;

    private readonly FreeRoom $room;

    /** @param  string  $stage  a folder for contents on their way */
    public function __construct(
        private readonly VolumeCopy $copy,
        private readonly ConflictRule $conflict,
        private readonly string $date,
        private readonly string $stage,
    ) {
        $this->now = $copy->files();
        $this->room = $copy->room();
    }

    /** @param  string  $path  on the volume; without a leading slash */
    public function add(string $path, FoundFile $file, FileSystem $of): void
    {
        if ($path === '') {
            return; // the root is there
        }
        $kind = $file->version->kind;
        if (preg_match('/["\x00-\x1f\x7f]/', $path.$file->version->linkTarget) === 1) {
            $this->leave($path, 'its name, or what it points to, has a character that cannot be written here');
        } elseif (! in_array($kind, [EntryKind::File, EntryKind::Folder, EntryKind::Symlink], true)) {
            $this->leave($path, 'it is neither a file, a folder nor a link');
        } elseif ($this->isUnder($path)) {
            $this->leave($path, 'a thing that is no folder stands in its way');
        } else {
            $this->foldersAbove($path);
            $kind === EntryKind::Folder ? $this->folder($path, $file) : $this->thing($path, $file, $of);
        }
    }

    private function leave(string $path, string $because): void
    {
        $this->leftOut[] = new LeftOut("{$this->copy->name}/$path", $because, false);
    }

    private function standing(string $path): ?FoundFile
    {
        return self::at($this->now, $path);
    }

    private static function at(FileSystem $files, string $path): ?FoundFile
    {
        $file = $files->root();
        foreach (explode('/', $path) as $part) {
            $file = $file->version->kind === EntryKind::Folder ? $files->child($file, $part) : null;
            if ($file === null) {
                return null;
            }
        }

        return $file;
    }

    /** Whether something that is no folder, a link too, stands where one of the folders above should be. */
    private function isUnder(string $path): bool
    {
        for ([$folder] = EntryPath::split($path); $folder !== ''; [$folder] = EntryPath::split($folder)) {
            $there = $this->standing($folder);
            if ($there !== null && $there->version->kind !== EntryKind::Folder) {
                return true;
            }
        }

        return false;
    }

    /** Those that are missing, and were not picked themselves. */
    private function foldersAbove(string $path): void
    {
        [$folder] = EntryPath::split($path);
        if ($folder !== '' && ! isset($this->made[$folder]) && $this->standing($folder) === null) {
            $this->foldersAbove($folder);
            $this->commands[] = "mkdir \"/$folder\"";
            $this->made[$folder] = true;
            $this->blocks++;
        }
    }

    private function folder(string $path, FoundFile $file): void
    {
        $there = $this->standing($path);
        if ($there !== null && $there->version->kind !== EntryKind::Folder) {
            $this->leave($path, 'a thing that is no folder stands there');
        } elseif ($there === null) {
            isset($this->made[$path]) || $this->commands[] = "mkdir \"/$path\"";
            $this->made[$path] = true;
            $this->blocks++;
            $this->wanted[$path] = [$file, null];
        }
    }

    private function thing(string $path, FoundFile $file, FileSystem $of): void
    {
        $place = $this->place($path);
        if ($place === null) {
            return;
        }
        $first = $file->version->kind === EntryKind::File && $file->version->linkGroup > 0 ? $this->linked[$file->node] ?? null : null;
        $digest = null;
        if ($first !== null) {
            $this->commands[] = "ln \"/{$first[0]}\" \"/$place\"";
            $digest = $this->wanted[$first[0]][1];
            $this->linked[$file->node] = [$first[0], $first[1] + 1];
        } elseif ($file->version->kind === EntryKind::File) {
            $digest = $this->content($place, $file, $of);
            $this->linked[$file->node] = [$place, 1];
        } else {
            $this->commands[] = "symlink \"/$place\" \"{$file->version->linkTarget}\"";
        }
        $this->files++;
        $this->wanted[$place] = [$file, $digest];
    }

    /** Where it goes, with what stands there out of the way; null if it is left out. */
    private function place(string $path): ?string
    {
        $there = $this->standing($path);
        if ($there === null) {
            return $path;
        }
        if ($there->version->kind === EntryKind::Folder) {
            $this->leave($path, 'a folder stands there');

            return null;
        }
        switch ($this->conflict) {
            case ConflictRule::MissingOnly:
                $this->leave($path, 'it is there');

                return null;
            case ConflictRule::Replace:
            case ConflictRule::ReplaceAll:
                $this->commands[] = "rm \"/$path\"";

                return $path;
            case ConflictRule::RenamePresent:
                $this->commands[] = "ln \"/$path\" \"/{$this->dated($path)}\"";
                $this->commands[] = "unlink \"/$path\""; // which counts no links, and ln did not either

                return $path;
            case ConflictRule::Beside:
                return $this->dated($path);
        }
    }

    private function dated(string $path): string
    {
        [$folder, $name] = EntryPath::split($path);
        for ($n = 1; ; $n++) {
            $place = EntryPath::join($folder, RestoreOrder::marked($name, $n === 1 ? $this->date : "{$this->date} $n"));
            if ($this->standing($place) === null && ! isset($this->wanted[$place])) {
                return $place;
            }
        }
    }

    private function content(string $place, FoundFile $file, FileSystem $of): string
    {
        $staged = $this->stage.'/'.$this->number++;
        $to = @fopen($staged, 'xb') ?: throw UnableToWrite::open($staged, 'A content on its way');
        $digest = new ContentDigest;
        foreach ($of->content($file) as $bytes) {
            $digest->data($bytes);
            fwrite($to, $bytes) === strlen($bytes) || throw UnableToWrite::full($staged);
            $this->bytes += strlen($bytes);
        }
        fclose($to);
        $this->commands[] = "write $staged \"/$place\"";
        $this->blocks += intdiv($file->version->size + $this->room->block - 1, $this->room->block) + 1;

        return $digest->finish();
    }

    /** @throws CannotBring if there is no room: a tool that fills it leaves files that look as if they were whole */
    public function write(): void
    {
        [$blocks, $inodes] = [$this->blocks + self::SPARE, count($this->wanted) + count($this->made)];
        if ($blocks > $this->room->blocks || $inodes > $this->room->inodes) {
            throw CannotBring::because(
                "{$this->copy->name} of the machine has ".Words::size($this->room->blocks * $this->room->block).' and '.
                    Words::count($this->room->inodes, 'file').' left; '.Words::size($blocks * $this->room->block).' and '.
                    Words::count($inodes, 'file').' are needed.',
            );
        }
        foreach ($this->linked as [$path, $count]) {
            $count === 1 || $this->commands[] = "set_inode_field \"/$path\" links_count $count";
        }
        foreach ($this->wanted as $path => [$file]) {
            array_push($this->commands, ...$this->attributes((string) $path, $file));
        }
        $this->copy->change($this->commands);
    }

    /** @return list<string> */
    private function attributes(string $path, FoundFile $file): array
    {
        $set = "set_inode_field \"/$path\"";
        $version = $file->version;
        $type = [EntryKind::File->value => 0100000, EntryKind::Folder->value => 040000][$version->kind->value] ?? 0120000;
        [$seconds, $rest] = [intdiv($version->mtime, 1_000_000_000), $version->mtime % 1_000_000_000];
        [$seconds, $rest] = $rest < 0 ? [$seconds - 1, $rest + 1_000_000_000] : [$seconds, $rest];
        // Seconds beyond 32 bits are kept with the parts of a second (ext4(5), inode timestamps).
        $epoch = ($seconds - unpack('l', pack('l', $seconds & 0xFFFFFFFF))[1]) >> 32 & 3;
        $commands = ["$set uid {$version->uid}", "$set gid {$version->gid}", "$set mtime @$seconds"];
        $version->kind === EntryKind::Symlink || $commands[] = $set.' mode '.sprintf('0%o', $type | $version->mode);
        $this->room->isFine && $commands[] = "$set mtime_extra ".($rest << 2 | $epoch);
        foreach ($file->extended as $name => $value) {
            $staged = $this->stage.'/'.$this->number++;
            file_put_contents($staged, $value);
            $name = substr($name, strlen('SCHILY.xattr.'));
            preg_match('/["\s\x00-\x1f]/', $name) === 1 || $commands[] = "ea_set -f $staged \"/$path\" $name";
        }

        return $commands;
    }

    /** @return list<string> what is not as it should be, now that all is written: path and why */
    public function wrong(): array
    {
        $now = $this->copy->files();
        $wrong = [];
        foreach ($this->wanted as $path => [$file, $digest]) {
            $found = self::at($now, (string) $path);
            $why = $found === null ? 'it is not there' : self::difference($now, $found, $file, $digest, $this->room->isFine);
            $why === null || $wrong[] = Shown::name("{$this->copy->name}/$path").": $why";
        }

        return $wrong;
    }

    private static function difference(FileSystem $now, FoundFile $found, FoundFile $file, ?string $digest, bool $isFine): ?string
    {
        [$is, $was] = [$found->version, $file->version];
        $time = fn (int $mtime): int => $isFine ? $mtime : intdiv($mtime, 1_000_000_000);
        $content = null;
        if ($digest !== null) {
            $content = new ContentDigest;
            foreach ($now->content($found) as $bytes) {
                $content->data($bytes);
            }
        }

        return match (true) {
            $is->kind !== $was->kind => 'it is something else',
            $content?->finish() !== $digest => 'its content is another',
            $is->linkTarget !== $was->linkTarget => 'it points elsewhere',
            [$is->uid, $is->gid] !== [$was->uid, $was->gid] => 'its owner is another',
            $is->kind !== EntryKind::Symlink && $is->mode !== $was->mode => 'its mode is another',
            $time($is->mtime) !== $time($was->mtime) => 'its time is another',
            $found->extended !== $file->extended => 'its attributes are others',
            default => null,
        };
    }

    /** @return int how many things were brought */
    public function count(): int
    {
        return count($this->wanted);
    }
}
