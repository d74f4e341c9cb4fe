<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

/** The inodes and change times of a source's files when a set was made: what tells later that a file was not touched. */
final class SourceState
{
    /** @param  array<array-key, string>  $states path => packed inode and change time */
    private function __construct(private array $states)
    {
    }

    public static function none(): self
    {
        return new self([]);
    }

    public static function read(string $path): self
    {
        $bytes = @file_get_contents($path);
        $states = $bytes === false ? false : @unserialize((string) @gzdecode($bytes), ['allowed_classes' => false]);

        return new self(is_array($states) ? $states : []);
    }

    public function write(string $path): void
    {
        file_put_contents("$path.partial", gzencode(serialize($this->states), 1));
        rename("$path.partial", $path);
    }

    public function note(SourceEntry $entry): void
    {
        $this->states[$entry->path] = self::pack($entry);
    }

    public function isSame(SourceEntry $entry): bool
    {
        return ($this->states[$entry->path] ?? null) === self::pack($entry);
    }

    private static function pack(SourceEntry $entry): string
    {
        return pack('JJJ', $entry->inode, $entry->device, $entry->ctime);
    }
}
