<?php

declare(strict_types=1);

namespace App\Stores;

use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Chain\CopyState;

/** A folder of this machine, or of a mounted share. */
final class FolderStore implements CopyStore
{
    private readonly CopyLook $ok;

    public function __construct(private readonly string $root)
    {
        $this->ok = new CopyLook(CopyState::Ok);
    }

    public function silence(bool $now = false): ?string
    {
        if ($now) {
            clearstatcache(true, $this->root);
        }

        return is_dir($this->root) ? null : "there is no folder {$this->root}";
    }

    public function look(string $path, int $bytes, array $segments = []): CopyLook
    {
        $size = @filesize($this->root.'/'.$path);

        return match (true) {
            $size === $bytes => $this->ok,
            $size !== false => self::differs($size, $bytes),
            default => new CopyLook(
                CopyState::Missing,
                ($silence = $this->silence()) === null ? "There is no file {$path} in {$this->root}." : ucfirst($silence).'.',
            ),
        };
    }

    public static function differs(int $size, int $registered): CopyLook
    {
        return new CopyLook(
            CopyState::Damaged,
            sprintf('The file has %s bytes, but had %s when it was registered.', number_format($size), number_format($registered)),
        );
    }

    public function open(StoredCopy $copy): ArchiveFile
    {
        return ArchiveFile::at($this->root.'/'.$copy->path);
    }

    public function raw(StoredCopy $copy, int $offset = 0): RawBytes
    {
        $bytes = StreamBytes::ofFile($this->root.'/'.$copy->path);
        $bytes->seek($offset);

        return $bytes;
    }

    public function add(string $path, string $file): StoredCopy
    {
        $to = $this->root.'/'.$path;
        if (! is_dir(dirname($to)) && ! @mkdir(dirname($to), 0700, true)) {
            throw UnableToStore::because('the folder '.dirname($to).' cannot be made');
        }
        ClosedFolder::mend($this->root);
        $digest = ContentDigest::ofFile($file) ?? throw UnableToStore::because("$file cannot be read");
        if (! @copy($file, "$to.partial") || ContentDigest::ofFile("$to.partial") !== $digest || ! rename("$to.partial", $to)) {
            @unlink("$to.partial");
            throw UnableToStore::because('the copy did not come out right: is its disk full?');
        }

        return new StoredCopy($path, (int) filesize($to));
    }

    public function rename(string $from, string $to): void
    {
        if (! @rename("{$this->root}/$from", "{$this->root}/$to")) {
            throw UnableToStore::because("$from cannot be renamed in {$this->root}");
        }
    }

    public function delete(string $path): void
    {
        if (! is_dir($this->root)) {
            throw UnableToStore::because((string) $this->silence());
        }
        if (! @unlink("{$this->root}/$path") && file_exists("{$this->root}/$path")) {
            throw UnableToStore::because("$path cannot be deleted from {$this->root}");
        }
    }

    public function release(): void
    {
    }
}
