<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

use InflateContext;

/**
 * A gzip file of one or many members (RFC 1952, section 2.2), read as one stream. PHP's own gzip functions stop silently
 * after the first member, or at the end of a truncated file; this one does neither, and confirms each member's checksum.
 */
final class GzipStream implements ByteStream
{
    /** Compressed bytes fed at a time: deflate expands at most 1032 times, so this bounds the memory a bomb can take. */
    private const FEED = 16384;

    private string $buffer = '';

    private int $at = 0;

    private int $position = 0;

    private string $compressed = '';

    /** Offset in the file of the first byte of $compressed. */
    private int $offset;

    private ?InflateContext $member = null;

    /** Uncompressed position at which the current member began. */
    private int $memberStart = 0;

    /** @var list<array{int, int}> uncompressed start and file offset of the members that are not yet behind */
    private array $members = [];

    private int $nextMember = 0;

    /** Why nothing comes after what is in the buffer. */
    private ?UnreadableArchive $broken = null;

    /** No honest archive needs a limit before it has unpacked to this many bytes. */
    private const UNLIMITED = 1 << 28;

    private int $fed = 0;

    private int $inflated = 0;

    /**
     * @param  RawBytes  $file standing at $start, where a member begins
     * @param  int|null  $mostTimes  how many times its size it may unpack to; null for as much as there is
     */
    public function __construct(private readonly RawBytes $file, int $start = 0, private readonly ?int $mostTimes = null)
    {
        $this->offset = $start;
    }

    public function read(int $length): string
    {
        $available = strlen($this->buffer) - $this->at;
        if ($available < $length && $this->fill($length)) {
            $available = strlen($this->buffer) - $this->at;
        }
        $bytes = substr($this->buffer, $this->at, min($length, $available));
        $this->at += strlen($bytes);
        $this->position += strlen($bytes);

        return $bytes;
    }

    public function skip(int $length): int
    {
        $left = $length;
        while ($left > 0) {
            $available = strlen($this->buffer) - $this->at;
            if ($available === 0 && ! $this->fill(1)) {
                break;
            }
            $step = min($left, strlen($this->buffer) - $this->at);
            $this->at += $step;
            $this->position += $step;
            $left -= $step;
        }

        return $length - $left;
    }

    public function position(): int
    {
        return $this->position;
    }

    public function place(): Place
    {
        $this->fill(1);
        while (isset($this->members[$this->nextMember + 1]) && $this->members[$this->nextMember + 1][0] <= $this->position) {
            unset($this->members[$this->nextMember++]);
        }
        [$start, $offset] = $this->members[$this->nextMember] ?? [0, 0];

        return new Place($offset, $this->position - $start);
    }

    /** Inflates until $length bytes are at hand; false if the archive ended before the first of them. */
    private function fill(int $length): bool
    {
        if (strlen($this->buffer) - $this->at >= $length) {
            return true;
        }
        $this->buffer = substr($this->buffer, $this->at);
        $this->at = 0;
        while (strlen($this->buffer) < $length) {
            if ($this->broken !== null) {
                throw $this->broken;
            }
            if ($this->compressed === '') {
                $this->compressed = $this->file->read(self::FEED);
                if ($this->compressed === '') {
                    if ($this->member !== null) {
                        throw UnreadableArchive::endsEarly($this->position + strlen($this->buffer));
                    }

                    return $this->buffer !== '';
                }
            }
            if ($this->member === null && ! $this->begin()) {
                return $this->buffer !== '';
            }
            $this->inflate();
        }

        return true;
    }

    /** Begins the next member; false if only padding follows the last one. */
    private function begin(): bool
    {
        if ($this->members !== [] || $this->position > 0) {
            if (strlen($this->compressed) < 2) {
                $this->compressed .= $this->file->read(self::FEED);
            }
            // As gzip(1) does: zeros after the last member are padding (of a tape block, say).
            if (trim($this->compressed, "\0") === '') {
                return false;
            }
        }
        $this->memberStart = $this->position + strlen($this->buffer);
        if (! str_starts_with($this->compressed, "\x1f\x8b")) {
            throw UnreadableArchive::badCompression($this->offset, $this->memberStart);
        }
        $this->members[$this->nextMember + count($this->members)] = [$this->memberStart, $this->offset];
        $this->member = inflate_init(ZLIB_ENCODING_GZIP) ?: throw UnreadableArchive::cannotOpen('zlib refused');

        return true;
    }

    private function inflate(): void
    {
        assert($this->member !== null);
        $before = inflate_get_read_len($this->member);
        $bytes = @inflate_add($this->member, $this->compressed, ZLIB_NO_FLUSH);
        if ($bytes === false) {
            $this->broken = UnreadableArchive::badCompression($this->offset, $this->memberStart);
            $this->buffer .= $this->upToTheBreak();

            return;
        }
        $this->buffer .= $bytes;
        $used = inflate_get_read_len($this->member) - $before;
        $this->fed += $used;
        $this->inflated += strlen($bytes);
        if ($this->mostTimes !== null && $this->inflated > self::UNLIMITED && $this->inflated > $this->mostTimes * $this->fed) {
            throw ($this->broken = UnreadableArchive::refused(
                "it unpacks to more than {$this->mostTimes} times its size",
                $this->position,
            ));
        }
        if (inflate_get_status($this->member) === ZLIB_STREAM_END) {
            $this->offset += $used;
            $this->compressed = substr($this->compressed, $used);
            $this->member = null;
        } else {
            $this->offset += strlen($this->compressed);
            $this->compressed = '';
        }
    }

    /**
     * The step that fails gives nothing, not even what stands before the break: the member is inflated once more up to it, and then byte
     * by byte.
     */
    private function upToTheBreak(): string
    {
        $member = $this->members[array_key_last($this->members) ?? 0][1] ?? $this->offset;
        $got = '';
        try {
            $this->file->seek($member);
            $inflating = inflate_init(ZLIB_ENCODING_GZIP);
            for ($at = $member; $inflating !== false && $at < $this->offset; $at += strlen($part)) {
                $part = $this->file->read(min(self::FEED, $this->offset - $at));
                if ($part === '' || @inflate_add($inflating, $part, ZLIB_NO_FLUSH) === false) {
                    return '';
                }
            }
            foreach ($inflating === false ? [] : str_split($this->compressed) as $byte) {
                $bytes = @inflate_add($inflating, $byte, ZLIB_NO_FLUSH);
                if ($bytes === false) {
                    break;
                }
                $got .= $bytes;
            }
        } catch (UnreadableArchive) {
            return $got; // of a stream that only goes forward
        }

        return $got;
    }
}
