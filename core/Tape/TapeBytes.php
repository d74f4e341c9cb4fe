<?php

declare(strict_types=1);

namespace Kaiseki\Core\Tape;

use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Archive\UnreadableArchive;

/** A file on one cartridge or several, read as one. */
final class TapeBytes implements RawBytes
{
    /** Read from the drive at once: a drive that must stop and start for each small piece wears its tape. */
    private const BLOCK = 262144;

    private int $at = 0;

    private string $buffer = '';

    private int $bufferAt = 0;

    /** @param  list<TapeSegment>  $segments in their order */
    public function __construct(private readonly TapeLibrary $library, private readonly array $segments)
    {
    }

    public function read(int $length): string
    {
        if ($this->at < $this->bufferAt || $this->at >= $this->bufferAt + strlen($this->buffer)) {
            $this->buffer = $this->block();
            $this->bufferAt = $this->at;
        }
        $bytes = substr($this->buffer, $this->at - $this->bufferAt, $length);
        $this->at += strlen($bytes);

        return $bytes;
    }

    public function seek(int $offset): void
    {
        $this->at = max(0, $offset);
    }

    public function size(): int
    {
        return array_sum(array_map(fn (TapeSegment $segment): int => $segment->bytes, $this->segments));
    }

    private function block(): string
    {
        $before = 0;
        foreach ($this->segments as $segment) {
            $within = $this->at - $before;
            if ($within < $segment->bytes) {
                try {
                    $bytes = $this->library->read(
                        $segment->label,
                        $segment->position + $within,
                        min(self::BLOCK, $segment->bytes - $within),
                    );
                } catch (UnableToUseTape $unable) {
                    throw UnreadableArchive::cannotOpen($unable->getMessage());
                }

                return $bytes !== '' ? $bytes : throw UnreadableArchive::cannotOpen("the cartridge {$segment->label} ends before it");
            }
            $before += $segment->bytes;
        }

        return '';
    }
}
