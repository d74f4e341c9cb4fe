<?php

declare(strict_types=1);

namespace App\Stores;

use Closure;
use Illuminate\Support\Facades\Cache;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Chain\CopyState;
use League\Flysystem\FileAttributes;
use League\Flysystem\FilesystemException;
use League\Flysystem\FilesystemOperator;

/** Objects behind Flysystem: an S3-compatible service, or a local folder in its place. */
final class ObjectStore implements CopyStore
{
    /** What a listing said is believed for so many seconds: asking a service for each page would be slow. */
    private const BELIEVED_S = 30;

    /** @var array<string, array<string, int>|string> folder => name => bytes, or why it could not be listed */
    private array $lists = [];

    /** @param  Closure(int): FilesystemOperator  $files  opened so that reading begins at an offset where the service can do that */
    public function __construct(private readonly string $name, private readonly Closure $files, private readonly bool $seeksItself)
    {
    }

    public function silence(bool $now = false): ?string
    {
        if ($now) {
            $this->lists = [];
            Cache::forget($this->key(''));
        }
        $list = $this->listing('');

        return is_string($list) ? $list : null;
    }

    public function look(string $path, int $bytes, array $segments = []): CopyLook
    {
        $list = $this->listing(dirname($path));
        if (is_string($list)) {
            return new CopyLook(CopyState::Missing, ucfirst($list).'.');
        }
        $size = $list[basename($path)] ?? null;

        return match (true) {
            $size === null => new CopyLook(CopyState::Missing, "There is no object $path in {$this->name}."),
            $size !== $bytes => FolderStore::differs($size, $bytes),
            default => new CopyLook(CopyState::Ok),
        };
    }

    public function open(StoredCopy $copy): ArchiveFile
    {
        $open = fn (int $offset): RawBytes => $this->raw($copy, $offset);

        return $copy->gzipped === null ? ArchiveFile::of($open) : ArchiveFile::known($open, $copy->gzipped);
    }

    public function raw(StoredCopy $copy, int $offset = 0): RawBytes
    {
        try {
            $bytes = new StreamBytes(($this->files)($offset)->readStream($copy->path), $copy->bytes);
        } catch (FilesystemException) {
            throw UnreadableArchive::cannotOpen("the object store {$this->name} does not give it");
        }
        if (! $this->seeksItself) {
            $bytes->seek($offset);
        }

        return $bytes;
    }

    public function add(string $path, string $file): StoredCopy
    {
        $source = @fopen($file, 'rb') ?: throw UnableToStore::because("$file cannot be read");
        try {
            $files = ($this->files)(0);
            $files->writeStream($path, $source);
            $digest = new ContentDigest;
            $stored = $files->readStream($path);
            while (($part = fread($stored, 1 << 20)) !== false && $part !== '') {
                $digest->data($part);
            }
        } catch (FilesystemException $unable) {
            throw UnableToStore::because("the object store {$this->name} did not take it: {$unable->getMessage()}");
        }
        if ($digest->finish() !== ContentDigest::ofFile($file)) {
            throw UnableToStore::because('the copy did not come out right');
        }
        unset($this->lists[dirname($path)]);
        Cache::forget($this->key(dirname($path)));

        return new StoredCopy($path, (int) filesize($file));
    }

    public function rename(string $from, string $to): void
    {
        $this->change($from, fn (FilesystemOperator $files) => $files->move($from, $to));
    }

    public function delete(string $path): void
    {
        $this->change($path, fn (FilesystemOperator $files) => $files->delete($path));
    }

    /** @param  Closure(FilesystemOperator): void  $how */
    private function change(string $path, Closure $how): void
    {
        try {
            $how(($this->files)(0));
        } catch (FilesystemException $unable) {
            throw UnableToStore::because("the object store {$this->name} does not do that: {$unable->getMessage()}");
        }
        unset($this->lists[dirname($path)]);
        Cache::forget($this->key(dirname($path)));
    }

    public function release(): void
    {
    }

    /** @return array<string, int>|string name => bytes, or why it could not be listed */
    private function listing(string $folder): array|string
    {
        return $this->lists[$folder] ??= Cache::remember($this->key($folder), self::BELIEVED_S, function () use ($folder): array|string {
            $list = [];
            try {
                foreach (($this->files)(0)->listContents($folder === '.' ? '' : $folder) as $object) {
                    if ($object instanceof FileAttributes) {
                        $list[basename($object->path())] = (int) $object->fileSize();
                    }
                }
            } catch (FilesystemException) {
                return "the object store {$this->name} does not answer";
            }

            return $list;
        });
    }

    private function key(string $folder): string
    {
        return 'objects-'.md5($this->name."\0".$folder);
    }
}
