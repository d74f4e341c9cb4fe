<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use Kaiseki\Core\UnableToWrite;

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
        $states = [];
        $file = @gzopen($path, 'rb');
        while ($file !== false && ($line = gzgets($file)) !== false) {
            $states[rawurldecode(substr($line, 49, -1))] = (string) hex2bin(substr($line, 0, 48));
        }

        return new self($states);
    }

    public function write(string $path): void
    {
        $file = gzopen("$path.partial", 'wb1') ?: throw UnableToWrite::open($path, "The source's state in");
        foreach ($this->states as $name => $state) {
            gzwrite($file, bin2hex($state).' '.rawurlencode((string) $name)."\n");
        }
        gzclose($file);
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
