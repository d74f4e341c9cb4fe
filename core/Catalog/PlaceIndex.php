<?php

declare(strict_types=1);

namespace Kaiseki\Core\Catalog;

use Kaiseki\Core\Archive\Place;
use Kaiseki\Core\UnableToRead;
use Kaiseki\Core\UnableToWrite;

/**
 * The contents that stand in one set's archive and where: a file of records of 56 bytes, sorted by digest, searched by
 * halving. A content is found by its digest, so a file that was renamed, copied or stored again has every place that
 * holds the same bytes. See docs/decisions/0002-places-by-digest.md.
 */
final class PlaceIndex
{
    private const RECORD = 56;

    /** Bytes of the digest that a record begins with. */
    public const DIGEST = 32;

    /** Records that are stepped over at first around where one is thought to be. */
    private const NEAR = 16;

    /** Up to this size the whole index is taken into memory when it is first asked. */
    private const SMALL = 16 << 20;

    private ?string $records = null;

    /** @var resource|null open while not all of it is in memory */
    private $file = null;

    private readonly int $count;

    /** @throws UnableToRead if there is no such index */
    private function __construct(string $path)
    {
        $file = @fopen($path, 'rb');
        if ($file === false) {
            throw UnableToRead::open($path, 'The index');
        }
        $size = fstat($file)['size'] ?? 0;
        $this->count = intdiv($size, self::RECORD);
        if ($size <= self::SMALL) {
            $this->records = (string) stream_get_contents($file);
            fclose($file);

            return;
        }
        $this->file = $file;
    }

    public static function open(string $path): self
    {
        return new self($path);
    }

    public static function pack(string $digest, Place $place, int $size): string
    {
        return $digest.pack('JJJ', $place->offset, $place->within, $size);
    }

    /**
     * Writes the index whole, or not at all.
     *
     * @param  list<string>  $records
     */
    public static function write(string $path, array $records): void
    {
        sort($records, SORT_STRING);
        $partial = "$path.partial";
        $file = @fopen($partial, 'wb');
        if ($file === false) {
            throw UnableToWrite::open($path, 'The index');
        }
        foreach (array_chunk($records, 4096) as $chunk) {
            $bytes = implode('', $chunk);
            if (fwrite($file, $bytes) !== strlen($bytes)) {
                throw UnableToWrite::full($path, "The index $path");
            }
        }
        fclose($file);
        rename($partial, $path);
    }

    /** Where the content with this digest stands, or null. */
    public function find(string $digest): ?Place
    {
        $low = $this->lowerBound($digest);
        if ($low >= $this->count) {
            return null;
        }
        $record = $this->record($low, self::RECORD);
        if (! str_starts_with($record, $digest)) {
            return null;
        }
        $numbers = unpack('Joffset/Jwithin', $record, 32);

        return new Place($numbers['offset'] ?? 0, $numbers['within'] ?? 0);
    }

    /**
     * The first record that is not before the digest. Digests are spread evenly, so one tells about where it stands: the
     * span around that is widened until it holds it, and then halved.
     */
    private function lowerBound(string $digest): int
    {
        $near = $this->count === 0 ? 0 : (int) ((unpack('N', $digest)[1] ?? 0) / 0x1_0000_0000 * $this->count);
        $low = $near;
        for ($step = self::NEAR; $low > 0 && strcmp($this->record($low - 1, 32), $digest) >= 0; $step *= 2) {
            $low = max(0, $low - $step);
        }
        $high = max($low, $near);
        for ($step = self::NEAR; $high < $this->count && strcmp($this->record($high, 32), $digest) < 0; $step *= 2) {
            $low = $high + 1;
            $high = min($this->count, $high + $step);
        }
        while ($low < $high) {
            $middle = ($low + $high) >> 1;
            if (strcmp($this->record($middle, 32), $digest) < 0) {
                $low = $middle + 1;
            } else {
                $high = $middle;
            }
        }

        return $low;
    }

    public function count(): int
    {
        return $this->count;
    }

    /** @return iterable<string> every digest, sorted; one that stands twice comes twice */
    public function digests(): iterable
    {
        for ($index = 0; $index < $this->count; $index++) {
            yield $this->record($index, 32);
        }
    }

    /** @return iterable<array{string, Place, int}> digest, place, size; sorted by digest */
    public function records(): iterable
    {
        for ($index = 0; $index < $this->count; $index++) {
            $record = $this->record($index, self::RECORD);
            $numbers = unpack('Joffset/Jwithin/Jsize', $record, 32);
            yield [substr($record, 0, 32), new Place($numbers['offset'] ?? 0, $numbers['within'] ?? 0), $numbers['size'] ?? 0];
        }
    }

    private function record(int $index, int $length): string
    {
        if ($this->records !== null) {
            return substr($this->records, $index * self::RECORD, $length);
        }
        assert($this->file !== null);
        fseek($this->file, $index * self::RECORD);

        return (string) fread($this->file, $length);
    }
}
