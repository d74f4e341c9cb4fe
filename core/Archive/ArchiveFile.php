<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

use Closure;

/** An archive, plain or gzipped, told by its first two bytes. */
final readonly class ArchiveFile
{
    /** @param  Closure(int): RawBytes  $bytes  opens them at an offset */
    private function __construct(private Closure $bytes, public bool $gzipped)
    {
    }

    /**
     * On a disk.
     *
     * @throws UnreadableArchive
     */
    public static function at(string $path): self
    {
        return self::of(function (int $offset) use ($path): RawBytes {
            $bytes = StreamBytes::ofFile($path);
            $bytes->seek($offset);

            return $bytes;
        });
    }

    /**
     * @param  Closure(int): RawBytes  $bytes  opens them, standing at an offset
     *
     * @throws UnreadableArchive
     */
    public static function of(Closure $bytes): self
    {
        $start = '';
        for ($file = $bytes(0); strlen($start) < 2; $start .= $more) {
            $more = $file->read(2 - strlen($start));
            if ($more === '') {
                throw UnreadableArchive::cannotOpen('it is empty');
            }
        }

        return new self($bytes, $start === "\x1f\x8b");
    }

    /**
     * Whose first two bytes are not looked at until it is read: what must be fetched is not fetched for that.
     *
     * @param  Closure(int): RawBytes  $bytes
     */
    public static function known(Closure $bytes, bool $gzipped): self
    {
        return new self($bytes, $gzipped);
    }

    /**
     * @param  int|null  $mostTimes  how many times its size it may unpack to
     *
     * @throws UnreadableArchive
     */
    public function open(int $offset = 0, ?int $mostTimes = null): ByteStream
    {
        $bytes = ($this->bytes)($offset);

        return $this->gzipped ? new GzipStream($bytes, $offset, $mostTimes) : new PlainStream($bytes, $offset);
    }

    /** @throws UnreadableArchive */
    public function openAt(Place $place): ByteStream
    {
        $stream = $this->open($place->offset);
        if ($stream->skip($place->within) < $place->within) {
            throw UnreadableArchive::endsEarly($place->within);
        }

        return $stream;
    }
}
