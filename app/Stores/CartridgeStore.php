<?php

declare(strict_types=1);

namespace App\Stores;

use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Tape\Cartridge;
use Kaiseki\Core\Tape\TapeBytes;
use Kaiseki\Core\Tape\TapeLibrary;
use Kaiseki\Core\Tape\UnableToUseTape;

/** Copies on cartridges of a tape library. */
final class CartridgeStore implements CopyStore
{
    /** @var array<string, Cartridge>|null */
    private ?array $cartridges = null;

    public function __construct(public readonly TapeLibrary $library)
    {
    }

    public function silence(bool $now = false): ?string
    {
        return $this->library->answers() ? null : 'the tape library does not answer';
    }

    public function look(string $path, int $bytes, array $segments = []): CopyLook
    {
        try {
            $cartridges = $this->cartridges();
        } catch (UnableToUseTape $silence) {
            return new CopyLook(CopyState::Missing, ucfirst($silence->getMessage()).'.');
        }
        $shelf = [];
        foreach ($segments as $segment) {
            $cartridge = $cartridges[$segment->label] ?? null;
            if ($cartridge === null || $cartridge->used < $segment->position + $segment->bytes) {
                return new CopyLook(
                    CopyState::Missing,
                    $cartridge === null
                        ? "The library knows no cartridge {$segment->label}."
                        : "The cartridge {$segment->label} ends before it.",
                );
            }
            if ($cartridge->isOnShelf()) {
                $shelf[$segment->label] = true;
            }
        }

        return $shelf === []
            ? new CopyLook(CopyState::Ok)
            : new CopyLook(
                CopyState::Offline,
                'A person must fetch '.implode(' and ', array_keys($shelf)).' from the shelf.',
                array_keys($shelf),
            );
    }

    public function open(StoredCopy $copy): ArchiveFile
    {
        $open = fn (int $offset): RawBytes => $this->raw($copy, $offset);

        return $copy->gzipped === null ? ArchiveFile::of($open) : ArchiveFile::known($open, $copy->gzipped);
    }

    public function raw(StoredCopy $copy, int $offset = 0): RawBytes
    {
        $bytes = new TapeBytes($this->library, $copy->segments);
        $bytes->seek($offset);

        return $bytes;
    }

    public function add(string $path, string $file): StoredCopy
    {
        try {
            $copy = new StoredCopy($path, (int) filesize($file), $this->library->append($file));
            $this->cartridges = null;
            $digest = new ContentDigest;
            for ($bytes = $this->raw($copy); ($part = $bytes->read(1 << 20)) !== '';) {
                $digest->data($part);
            }
        } catch (UnableToUseTape|UnreadableArchive $unable) {
            throw UnableToStore::because($unable->getMessage());
        }
        if ($digest->finish() !== ContentDigest::ofFile($file)) {
            throw UnableToStore::because('what was written to tape did not come back right');
        }

        return $copy;
    }

    public function rename(string $from, string $to): void
    {
        throw UnableToStore::because('what is on a cartridge keeps its place');
    }

    /** Nothing is deleted from the middle of a tape: what no record names is room that comes back when its cartridge is erased. */
    public function delete(string $path): void
    {
    }

    public function release(): void
    {
        $this->library->release();
        $this->cartridges = null;
    }

    /** @return array<string, Cartridge> by label */
    public function cartridges(): array
    {
        if ($this->cartridges === null) {
            $this->cartridges = [];
            foreach ($this->library->cartridges() as $cartridge) {
                $this->cartridges[$cartridge->label] = $cartridge;
            }
        }

        return $this->cartridges;
    }
}
