<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

use Closure;
use Kaiseki\Core\Machine\ReadAhead;

/** A disk of a machine, read and written where it is. */
final readonly class NbdDisk implements ReadAhead
{
    /** What an NBD server says of which areas hold something; and QEMU, of which changed since a mark was set. */
    private const HELD = 'base:allocation';

    private const CHANGED = 'qemu:dirty-bitmap:';

    private const HOLE_OF_ZEROS = 3;

    private const IS_CHANGED = 1;

    /** Bytes of an area that is asked about at once. */
    private const AT_ONCE = 1 << 30;

    private function __construct(private NbdLink $link, private ?string $mark)
    {
    }

    /**
     * @param  string|null  $mark  the name of a bitmap of what changed
     *
     * @throws HypervisorFailure
     */
    public static function open(DiskDoor $door, ?string $mark = null): self
    {
        $contexts = [self::HELD, ...$mark === null ? [] : [self::CHANGED.$mark]];

        return new self(NbdLink::open($door->socket, $door->export, $contexts), $mark);
    }

    /**
     * Opens a disk of a machine that is off, does something with it, and closes its door again, whatever came of that.
     *
     * @template T
     *
     * @param  Closure(self): T  $work
     * @param  string|null  $mark  the name of a bitmap of what changed
     * @return T
     *
     * @throws HypervisorFailure
     */
    public static function with(
        Hypervisor $hypervisor,
        string $machine,
        string $disk,
        bool $toWrite,
        Closure $work,
        ?string $mark = null,
    ): mixed {
        $door = $hypervisor->openDisk($machine, $disk, $toWrite, $mark);
        try {
            $opened = self::open($door, $mark);
            $came = $work($opened);
            $toWrite && $opened->flush();
            $opened->close();

            return $came;
        } finally {
            $hypervisor->closeDisk($door);
        }
    }

    public function size(): int
    {
        return $this->link->size;
    }

    public function read(int $from, int $length): string
    {
        $all = '';
        for ($end = min($this->size(), $from + $length); $from < $end; $from += $piece) {
            $piece = min(NbdLink::MOST, $end - $from);
            $bytes = $this->link->read($from, $piece);
            $all = $all === '' ? $bytes : $all.$bytes;
        }

        return $all;
    }

    public function ahead(int $from, int $length): void
    {
        $length = min($length, NbdLink::MOST, $this->size() - $from);
        $length < 1 || $this->link->ahead($from, $length);
    }

    public function write(int $from, string $bytes): void
    {
        foreach (str_split($bytes, NbdLink::MOST) as $piece) {
            $this->link->write($from, $piece);
            $from += strlen($piece);
        }
    }

    public function zero(int $from, int $length): void
    {
        for (; $length > 0; $from += $piece, $length -= $piece) {
            $piece = min(self::AT_ONCE, $length);
            $this->link->zero($from, $piece);
        }
    }

    public function flush(): void
    {
        $this->link->flush();
    }

    public function close(): void
    {
        $this->link->close();
    }

    /**
     * Areas that hold something: the rest is zeros.
     *
     * @return iterable<array{int, int}> from, and behind its last byte; in order
     */
    public function held(): iterable
    {
        return $this->areas(self::HELD, fn (int $flags): bool => ($flags & self::HOLE_OF_ZEROS) !== self::HOLE_OF_ZEROS);
    }

    /**
     * Areas that changed since the mark was set.
     *
     * @return iterable<array{int, int}>
     */
    public function changed(): iterable
    {
        return $this->areas(self::CHANGED.$this->mark, fn (int $flags): bool => ($flags & self::IS_CHANGED) !== 0);
    }

    /**
     * @param  callable(int): bool  $isMeant
     * @return iterable<array{int, int}>
     */
    private function areas(string $context, callable $isMeant): iterable
    {
        $begun = null;
        for ($at = 0, $size = $this->size(); $at < $size;) {
            $told = $this->link->status($context, $at, min(self::AT_ONCE, $size - $at));
            if (array_sum(array_column($told, 0)) <= 0) {
                throw HypervisorFailure::nonsense('nothing about an area of a disk');
            }
            foreach ($told as [$length, $flags]) {
                if ($isMeant($flags)) {
                    $begun ??= $at;
                } elseif ($begun !== null) {
                    yield [$begun, $at];
                    $begun = null;
                }
                $at = min($size, $at + $length);
            }
        }
        if ($begun !== null) {
            yield [$begun, $size];
        }
    }
}
