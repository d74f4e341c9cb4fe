<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

use Kaiseki\Core\Archive\Internal\Header;
use Kaiseki\Core\Archive\Internal\PaxRecords;
use Kaiseki\Core\Archive\Internal\SparseMap;

/**
 * Reads tar as POSIX.1-2017 (ustar and pax interchange formats) and GNU tar write it, from front to back, in memory that
 * does not grow with the archive. A header that is damaged is passed over: see problems().
 */
final class TarReader
{
    public const BLOCK = 512;

    /** A folder record or pax header may not take more; a folder of a million names needs about a third of it. */
    private const MOST_IN_HEADERS = 64 << 20;

    private const CHUNK = 262144;

    /** No volume holds a file beyond this; sums with it stay whole numbers. */
    private const LARGEST = 1 << 60;

    /** Stored bytes of the current member that were not read yet, and the padding behind them. */
    private int $left = 0;

    private int $padding = 0;

    /** @var array<string, string> */
    private array $global = [];

    /** @var list<string> */
    private array $problems = [];

    private bool $ended = false;

    /** @param  bool  $any  whether it is known to be tar, so that a damaged first header is passed over too */
    public function __construct(private readonly ByteStream $in, private bool $any = false)
    {
    }

    /**
     * The next member, or null at the end. What was not read of the one before is skipped.
     *
     * @throws UnreadableArchive
     */
    public function next(): ?TarEntry
    {
        $this->pass($this->left + $this->padding);
        $this->left = $this->padding = 0;
        $records = [];
        $longName = $longLink = null;
        $position = $place = null;
        while (true) {
            $here = $this->in->position();
            $herePlace = $this->in->place();
            $header = $this->header();
            if ($header === null) {
                if ($position !== null) {
                    throw UnreadableArchive::endsEarly($here);
                }

                return null;
            }
            if ($position === null || $header->afterDamage) {
                [$position, $place] = $header->afterDamage ? [$this->in->position() - self::BLOCK, $header->place] : [$here, $herePlace];
            }
            switch ($header->type) {
                case 'x':
                case 'X':
                    $records = PaxRecords::parse($this->small($header->size), $here);

                    continue 2;
                case 'g':
                    $this->global = array_merge($this->global, PaxRecords::parse($this->small($header->size), $here));

                    continue 2;
                case 'L':
                    $longName = rtrim($this->small($header->size), "\0");

                    continue 2;
                case 'K':
                    $longLink = rtrim($this->small($header->size), "\0");

                    continue 2;
                case 'V':
                case 'M':
                case 'N':
                    if ($header->type === 'M') {
                        $this->problems[] = 'it goes on with a file that began in another volume; that file is left out';
                    }
                    if ($header->size > self::LARGEST) {
                        throw UnreadableArchive::refused("a member of {$header->size} bytes", $here);
                    }
                    $this->pass($header->size + self::padding($header->size));
                    $position = null;

                    continue 2;
            }

            return $this->member($header, $records + $this->global, $longName, $longLink, $position, $place ?? $herePlace);
        }
    }

    /**
     * Hands the content of the current member to the sinks. Only once for each member.
     *
     * @throws UnreadableArchive
     */
    public function content(TarEntry $entry, ContentSink ...$sinks): void
    {
        $pieces = $entry->pieces ?? [[0, $entry->storedSize]];
        $at = 0;
        foreach ($pieces as [$offset, $length]) {
            if ($offset > $at) {
                foreach ($sinks as $sink) {
                    $sink->hole($offset - $at);
                }
            }
            for ($left = $length; $left > 0; $left -= strlen($bytes)) {
                $bytes = $this->exactly(min($left, self::CHUNK));
                $this->left -= strlen($bytes);
                foreach ($sinks as $sink) {
                    $sink->data($bytes);
                }
            }
            $at = $offset + $length;
        }
        if ($entry->size > $at) {
            foreach ($sinks as $sink) {
                $sink->hole($entry->size - $at);
            }
        }
    }

    /** @return list<string> what was passed over so far, in words that follow the archive's name */
    public function problems(): array
    {
        return $this->problems;
    }

    /** The next header that is one; null at the end of the archive. */
    private function header(): ?Header
    {
        if ($this->ended) {
            return null;
        }
        $damaged = false;
        while (true) {
            $at = $this->in->position();
            $place = $damaged ? $this->in->place() : null;
            $block = $this->in->read(self::BLOCK);
            if ($block === '') {
                $this->ended = true;
                if (! $this->any) {
                    throw UnreadableArchive::notTar();
                }
                $this->problems[] = 'it has no end-of-archive mark, so it may be cut short';

                return null;
            }
            if (strlen($block) < self::BLOCK) {
                throw UnreadableArchive::endsEarly($at + strlen($block));
            }
            if ($block[0] === "\0" && trim($block, "\0") === '') {
                $this->ended = true;
                $this->drain();

                return null;
            }
            $header = Header::parse($block, $damaged, $place);
            if ($header !== null) {
                $this->any = true;

                return $header;
            }
            if (! $this->any) {
                throw UnreadableArchive::notTar();
            }
            if (! $damaged) {
                $damaged = true;
                $this->problems[] = "the header at uncompressed byte $at is damaged; what it described is lost";
            }
        }
    }

    /** Reads on to the real end, so that the checksum of the last gzip member is confirmed too. */
    private function drain(): void
    {
        while ($this->in->skip(1 << 20) === 1 << 20) {
        }
    }

    /** @param  array<string, string>  $records */
    private function member(Header $header, array $records, ?string $longName, ?string $longLink, int $position, Place $place): TarEntry
    {
        $size = isset($records['size']) ? PaxRecords::size($records['size'], $position) : $header->size;
        if ($size > self::LARGEST) {
            throw UnreadableArchive::refused("a member of $size bytes", $position);
        }
        $path = $records['GNU.sparse.name'] ?? $records['path'] ?? $longName ?? $header->path;
        $kind = $header->kind($path);
        $dumpDir = $pieces = null;
        $stored = $kind === EntryKind::File || $header->type === 'D' ? $size : 0;
        if ($kind === EntryKind::HardLink && $size > 0 && isset($records['size'])) {
            $stored = $size; // pax archives may repeat the content with each name
        }
        $this->left = $stored;
        $this->padding = self::padding($stored);
        if ($kind === EntryKind::Folder) {
            if ($header->type === 'D') {
                $dumpDir = DumpDir::parse($this->small($size), $position);
                $this->left = $this->padding = $stored = 0;
            } elseif (isset($records['GNU.dumpdir'])) {
                $dumpDir = DumpDir::parse($records['GNU.dumpdir'], $position);
            }
            $size = 0;
        } elseif ($kind === EntryKind::File) {
            $map = SparseMap::of($header, $records, $stored, $position, $this->exactly(...));
            if ($map !== null) {
                $this->left -= $map->bytesInContent;
                [$pieces, $size, $stored] = [$map->pieces, $map->realSize, $this->left];
            }
        }

        return new TarEntry(
            $path, $kind, $kind === EntryKind::File ? $size : 0, $stored, $header->mode,
            isset($records['uid']) ? (int) $records['uid'] : $header->uid,
            isset($records['gid']) ? (int) $records['gid'] : $header->gid,
            $records['uname'] ?? $header->uname, $records['gname'] ?? $header->gname,
            isset($records['mtime']) ? DecimalSeconds::nanoseconds($records['mtime']) : Header::toNanoseconds($header->mtime),
            $records['linkpath'] ?? $longLink ?? $header->linkTarget,
            $dumpDir, $pieces, $place, $position, self::extended($records),
        );
    }

    /**
     * @param  array<string, string>  $records
     * @return array<string, string>
     */
    private static function extended(array $records): array
    {
        $extended = [];
        foreach ($records as $keyword => $value) {
            if (str_starts_with((string) $keyword, 'SCHILY.xattr.') || str_starts_with((string) $keyword, 'SCHILY.acl.')) {
                // star(1) and GNU tar write = as %3D in the names of attributes.
                $extended[strtr((string) $keyword, ['%3D' => '=', '%25' => '%'])] = $value;
            }
        }

        return $extended;
    }

    private function small(int $size): string
    {
        if ($size > self::MOST_IN_HEADERS) {
            throw UnreadableArchive::refused("a header of $size bytes", $this->in->position());
        }
        $bytes = $this->exactly($size);
        $this->pass(self::padding($size));

        return $bytes;
    }

    private function exactly(int $length): string
    {
        $bytes = $this->in->read($length);
        if (strlen($bytes) < $length) {
            throw UnreadableArchive::endsEarly($this->in->position());
        }

        return $bytes;
    }

    private function pass(int $length): void
    {
        if ($length > 0 && $this->in->skip($length) < $length) {
            throw UnreadableArchive::endsEarly($this->in->position());
        }
    }

    /** Bytes that fill up the last block of so many. */
    public static function padding(int $size): int
    {
        return (self::BLOCK - $size % self::BLOCK) % self::BLOCK;
    }
}
