<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** The bytes of an attribute of NTFS: in its record, in clusters all over the volume with holes between, or compressed. */
final class NtfsStream
{
    private const AT_ONCE = 1 << 20;

    private const MOST_RUNS = 1 << 20;

    private readonly NtfsAttribute $first;

    /** @var list<array{int, int|null, int}>|null first cluster within it, where that lies (null: a hole), how many */
    private ?array $runs = null;

    /** @param  non-empty-list<NtfsAttribute>  $pieces  from its beginning on */
    public function __construct(private readonly NtfsGeometry $geometry, private readonly array $pieces)
    {
        $this->first = $pieces[0];
    }

    public function size(): int
    {
        return $this->first->value === null ? $this->first->size : strlen($this->first->value);
    }

    /**
     * @return iterable<string>
     *
     * @throws UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public function content(): iterable
    {
        if ($this->first->isEncrypted()) {
            throw UnreadableVolume::because('keeps it encrypted, with a key that is not in it');
        }
        if ($this->first->value !== null) {
            yield $this->first->value;

            return;
        }
        $step = $this->first->unit === 0 ? self::AT_ONCE : $this->first->unit * $this->geometry->cluster;
        for ($at = 0; $at < $this->first->size; $at += $step) {
            $length = min($step, $this->first->size - $at);
            yield $this->first->unit === 0 ? $this->read($at, $length) : $this->unpacked($at, $length);
        }
    }

    /** Of one that is not compressed: so many bytes, or those up to its end. */
    public function read(int $from, int $length): string
    {
        $end = min($this->size(), $from + $length);
        if ($this->first->value !== null || $from >= $end) {
            return $this->first->value === null ? '' : substr($this->first->value, $from, max(0, $end - $from));
        }
        $written = min($end, $this->first->written);
        $all = $from < $written ? $this->stored($from, $written - $from) : '';

        return str_pad($all, $end - $from, "\0");
    }

    private function stored(int $from, int $length): string
    {
        $all = '';
        $size = $this->geometry->cluster;
        for ($i = $this->runAt(intdiv($from, $size)); $length > 0; $i++) {
            [$first, $lies, $count] = $this->runs()[$i] ?? throw UnreadableVolume::damaged('a file is longer than what is stored of it');
            $within = $from - $first * $size;
            $some = min($length, $count * $size - $within);
            $bytes = $lies === null ? str_repeat("\0", $some) : $this->geometry->disk->read($lies * $size + $within, $some);
            strlen($bytes) === $some || throw UnreadableVolume::damaged('a file does not lie within it');
            $all .= $bytes;
            [$from, $length] = [$from + $some, $length - $some];
        }

        return $all;
    }

    /** The number of the run that has a cluster. */
    private function runAt(int $cluster): int
    {
        $runs = $this->runs();
        [$low, $high] = [0, count($runs) - 1];
        while ($low < $high) {
            $middle = intdiv($low + $high + 1, 2);
            $runs[$middle][0] <= $cluster ? $low = $middle : $high = $middle - 1;
        }

        return max(0, $low);
    }

    /**
     * A unit that is compressed takes fewer clusters than it has: the rest of it are holes. One without holes is as it is, one of nothing
     * but holes is zeros.
     */
    private function unpacked(int $at, int $length): string
    {
        $size = $this->geometry->cluster;
        $held = 0;
        $first = intdiv($at, $size);
        for ($i = $this->runAt($first); isset($this->runs()[$i]) && $this->runs()[$i][0] < $first + $this->first->unit; $i++) {
            [$from, $lies, $count] = $this->runs()[$i];
            $overlap = min($from + $count, $first + $this->first->unit) - max($from, $first);
            $held += $lies === null ? 0 : max(0, $overlap);
        }
        $bytes = match (true) {
            $held === 0 => '',
            $held >= $this->first->unit => $this->stored($at, $length),
            default => Lznt1::unpack($this->stored($at, $held * $size), $length),
        };
        $written = max(0, min($length, $this->first->written - $at));

        return str_pad(substr($bytes, 0, $written), $length, "\0");
    }

    /** @return list<array{int, int|null, int}> */
    private function runs(): array
    {
        if ($this->runs === null) {
            $this->runs = [];
            foreach ($this->pieces as $piece) {
                $behind = $this->runs === [] ? 0 : $this->runs[count($this->runs) - 1][0] + $this->runs[count($this->runs) - 1][2];
                $piece->first === $behind || throw UnreadableVolume::damaged('a piece of a file is missing');
                array_push($this->runs, ...$this->decoded($piece->runs, $behind));
            }
        }

        return $this->runs;
    }

    /** @return list<array{int, int|null, int}> */
    private function decoded(string $bytes, int $first): array
    {
        $runs = [];
        $lies = 0;
        for ($at = 0; $at < strlen($bytes) && $bytes[$at] !== "\0"; $at += 1 + $counted + $moved) {
            [$counted, $moved] = [ord($bytes[$at]) & 0xF, ord($bytes[$at]) >> 4];
            $count = self::number(substr($bytes, $at + 1, $counted));
            $lies += self::number(substr($bytes, $at + 1 + $counted, $moved));
            $isWithin = $moved === 0 || ($lies >= 0 && $lies + $count <= $this->geometry->clusters);
            if ($counted === 0 || $count < 1 || $count > 1 << 48 || ! $isWithin || count($runs) > self::MOST_RUNS) {
                throw UnreadableVolume::damaged('a file does not lie within it');
            }
            $runs[] = [$first, $moved === 0 ? null : $lies, $count];
            $first += $count;
        }

        return $runs;
    }

    /** Of as many bytes as are needed, the lowest first, with a sign. */
    private static function number(string $bytes): int
    {
        if ($bytes === '' || strlen($bytes) > 8) {
            return 0;
        }
        $sign = ord($bytes[-1]) >= 0x80 ? "\xff" : "\0";

        return unpack('P', str_pad($bytes, 8, $sign))[1] ?? 0;
    }
}
