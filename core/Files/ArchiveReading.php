<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\ByteStream;
use Kaiseki\Core\Archive\ContentSink;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\Place;
use Kaiseki\Core\Archive\TarEntry;
use Kaiseki\Core\Archive\TarReader;
use Kaiseki\Core\Archive\UnreadableArchive;

/** Takes members out of one archive, going forward where the next one is ahead in the same stream. */
final class ArchiveReading
{
    private ?ByteStream $stream = null;

    private ?ContentPlace $last = null;

    /** Bytes between where the stream stands and the next header. */
    private int $padding = 0;

    /**
     * Hands the content of the member at a place to the sinks; the member.
     *
     * @throws UnreadableArchive
     */
    public function read(ContentPlace $at, ContentSink ...$sinks): TarEntry
    {
        $this->goTo($at);
        assert($this->stream !== null);
        try {
            $reader = new TarReader($this->stream, true); // the digest of what is read tells whether it was that
            $entry = $reader->next();
            if ($entry === null || $entry->kind !== EntryKind::File) {
                throw UnreadableArchive::notTar();
            }
            $reader->content($entry, ...$sinks);
            $this->padding = (TarReader::BLOCK - $entry->storedSize % TarReader::BLOCK) % TarReader::BLOCK;

            return $entry;
        } catch (UnreadableArchive $damage) {
            $this->stream = null;
            throw $damage;
        }
    }

    /**
     * The member at a place, of which the content is not read.
     *
     * @throws UnreadableArchive
     */
    public function member(ContentPlace $at): TarEntry
    {
        $this->goTo($at);
        assert($this->stream !== null);
        try {
            $entry = (new TarReader($this->stream, true))->next() ?? throw UnreadableArchive::notTar();
        } catch (UnreadableArchive $damage) {
            $this->stream = null;
            throw $damage;
        }
        $this->padding = $entry->storedSize + (TarReader::BLOCK - $entry->storedSize % TarReader::BLOCK) % TarReader::BLOCK;

        return $entry;
    }

    private function goTo(ContentPlace $at): void
    {
        if ($this->stream !== null && $this->last?->archiveKey === $at->archiveKey && $this->forward($at->place, $at->archive->gzipped)) {
            return;
        }
        $this->last = $at;
        $this->stream = $at->archive->openAt($at->place);
    }

    private function forward(Place $to, bool $gzipped): bool
    {
        assert($this->stream !== null);
        $here = $this->stream->place();
        if (! $gzipped) {
            return $to->offset >= $here->offset && $this->stream->skip($to->offset - $here->offset) === $to->offset - $here->offset;
        }
        // At most the padding behind a content lies between two neighbours of which the second begins a gzip member.
        if ($here->offset < $to->offset && $to->within === 0 && $this->stream->skip($this->padding) === $this->padding) {
            $here = $this->stream->place();
        }
        if ($here->offset !== $to->offset || $here->within > $to->within) {
            return false;
        }

        return $this->stream->skip($to->within - $here->within) === $to->within - $here->within;
    }
}
