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
    private const MOST_RECORDS = 65_536;

    private ?ByteStream $stream = null;

    private ?ContentPlace $last = null;

    /** At whose headers the stream stands. */
    private ?ContentPlace $waits = null;

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
            $this->padding = TarReader::padding($entry->storedSize);

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
        $this->padding = $entry->storedSize + TarReader::padding($entry->storedSize);

        return $entry;
    }

    /**
     * The content of a member that is a plain file of a known size, without anything in its headers that says more; null
     * if it is another kind of member, and then read() takes it from there. Nothing is checked: the digest of what comes
     * out tells whether it is right.
     *
     * @throws UnreadableArchive
     */
    public function plain(ContentPlace $at, int $size): ?string
    {
        $this->goTo($at);
        $stream = $this->stream;
        assert($stream !== null);
        try {
            $lead = $block = $stream->read(TarReader::BLOCK);
            if (strlen($block) === TarReader::BLOCK && $block[156] === 'x') {
                $length = (int) octdec(substr($block, 124, 11));
                $records = $length > self::MOST_RECORDS ? '' : $stream->read($length + TarReader::padding($length));
                $lead .= $records;
                // Sizes, sparse maps, attributes: whatever changes how the content is read.
                if (
                    $records !== '' &&
                    ! str_contains($records, 'GNU.') &&
                    ! str_contains($records, 'SCHILY.') &&
                    ! str_contains($records, ' size=')
                ) {
                    $lead .= $block = $stream->read(TarReader::BLOCK);
                }
            }
            if (
                strlen($block) !== TarReader::BLOCK ||
                ($block[156] !== '0' && $block[156] !== "\0") ||
                (int) octdec(substr($block, 124, 11)) !== $size ||
                $block[124] > '7'
            ) {
                $this->stream = new PushedBack($lead, $stream);
                $this->waits = $at;

                return null;
            }
            $bytes = $stream->read($size);
            $this->padding = TarReader::padding($size);
        } catch (UnreadableArchive $damage) {
            $this->stream = null;
            throw $damage;
        }
        if (strlen($bytes) !== $size) {
            $this->stream = null;
            throw UnreadableArchive::endsEarly($stream->position());
        }

        return $bytes;
    }

    private function goTo(ContentPlace $at): void
    {
        $isThere = $this->stream !== null && $this->waits === $at;
        $this->waits = null;
        if ($isThere) {
            return;
        }
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
