<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

use Kaiseki\Core\UnableToWrite;

/**
 * What the bytes of an archive were when it was registered: the BLAKE2b-256 (RFC 7693) of the whole, and of each piece
 * of it, so that damage is told by where it is, and one copy can be mended with the pieces of another.
 */
final readonly class PieceDigests
{
    public const PIECE = 1 << 18;

    private const HEAD = "kaiseki pieces 1\n";

    private const DIGEST = 32;

    private function __construct(
        /** 32 bytes, of the whole. */
        public string $digest,
        public int $bytes,
        /** @var list<string> 32 bytes each */
        private array $pieces,
    ) {
    }

    /**
     * Reads an archive from its first byte to its last.
     *
     * @param  (callable(int): void)|null  $progress  told the bytes read so far, now and then
     *
     * @throws UnreadableArchive
     */
    public static function of(RawBytes $archive, ?callable $progress = null): self
    {
        $whole = new ContentDigest;
        $pieces = [];
        for ($bytes = 0; ($piece = self::piece($archive)) !== ''; $bytes += strlen($piece)) {
            $whole->data($piece);
            $pieces[] = ContentDigest::of($piece);
            if ($progress !== null && count($pieces) % 64 === 0) {
                $progress($bytes);
            }
        }

        return new self($whole->finish(), $bytes, $pieces);
    }

    /** The next piece, shorter only at the end; '' behind it. */
    public static function piece(RawBytes $archive): string
    {
        for ($piece = ''; strlen($piece) < self::PIECE; $piece .= $more) {
            $more = $archive->read(self::PIECE - strlen($piece));
            if ($more === '') {
                break;
            }
        }

        return $piece;
    }

    /** The digest of the piece with this number, counted from 0; null behind the last. */
    public function at(int $number): ?string
    {
        return $this->pieces[$number] ?? null;
    }

    public function count(): int
    {
        return count($this->pieces);
    }

    /** Where what was read now differs from what was registered, in bytes of the registered archive. */
    public function damageIn(self $now): ByteRanges
    {
        $ranges = [];
        foreach ($this->pieces as $number => $digest) {
            if ($now->at($number) !== $digest) {
                $from = $number * self::PIECE;
                $ranges[] = [$from, min($this->bytes, $from + self::PIECE)];
            }
        }

        return ByteRanges::of($ranges);
    }

    /** Writes them whole, or not at all. */
    public function write(string $path): void
    {
        $partial = "$path.partial";
        $content = self::HEAD.pack('J', $this->bytes).$this->digest.implode('', $this->pieces);
        if (
            @file_put_contents($partial, $content.ContentDigest::of($content)) !== strlen($content) + self::DIGEST ||
            ! rename($partial, $path)
        ) {
            @unlink($partial);
            throw UnableToWrite::full($path);
        }
    }

    /** Null if there are none, or they are not what was written. */
    public static function read(string $path): ?self
    {
        $content = (string) @file_get_contents($path);
        $head = strlen(self::HEAD) + 8 + self::DIGEST;
        if (
            strlen($content) < $head + self::DIGEST ||
            ! str_starts_with($content, self::HEAD) ||
            (strlen($content) - $head) % self::DIGEST !== 0
        ) {
            return null;
        }
        if (ContentDigest::of(substr($content, 0, -self::DIGEST)) !== substr($content, -self::DIGEST)) {
            return null;
        }
        $bytes = unpack('J', $content, strlen(self::HEAD))[1] ?? 0;
        $pieces = substr($content, $head, -self::DIGEST);

        return new self(
            substr($content, $head - self::DIGEST, self::DIGEST),
            $bytes,
            $pieces === '' ? [] : str_split($pieces, self::DIGEST),
        );
    }
}
