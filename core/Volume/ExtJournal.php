<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;

/**
 * The journal of an extended file system (JBD2, as "ext4 Data Structures and Algorithms" of the Linux kernel's documentation has it): which
 * blocks of the volume a mount would write anew before anything else is read. Nothing is written; the newer blocks are looked up.
 */
final class ExtJournal
{
    private const MAGIC = 0xC03B3998;

    private const DESCRIPTOR = 1;

    private const COMMIT = 2;

    private const REVOKE = 5;

    /** Incompatible features (bits). */
    private const WIDE = 0x2;

    private const SUMS_16 = 0x8;

    private const SUMS_32 = 0x10;

    private const KNOWN = 0x1 | self::WIDE | 0x4 | self::SUMS_16 | self::SUMS_32;

    private const ESCAPED = 0x1;

    private const SAME_UUID = 0x2;

    private const LAST = 0x8;

    /** Blocks of a journal that are gone through. */
    private const MOST = 1 << 20;

    private readonly int $features;

    private readonly int $first;

    private readonly int $length;

    private readonly string $uuid;

    /** @var array<int, array{int, bool}> block of the volume => the newer one in the journal, and whether its first bytes are others */
    private array $newer = [];

    /** @var array<int, int> block of the volume => the last transaction that took it out of the journal */
    private array $revoked = [];

    /** Whether the end of it is missing, or was not right. */
    public bool $isBroken = false;

    /** @param  list<array{int, int, int}>  $places  where the journal lies: see ExtMap::places() */
    private function __construct(private readonly Disk $disk, private readonly int $blockSize, private readonly array $places)
    {
        $super = $this->block(0);
        $fields = unpack('Nmagic/Ntype/x4/NblockSize/Nlength/Nfirst/Nsequence/Nstart/x4/x4/Nincompatible', $super);
        $isOurs = $fields !== false && $fields['magic'] === self::MAGIC && in_array($fields['type'], [3, 4], true);
        if (! $isOurs || $fields['blockSize'] !== $blockSize) {
            throw UnreadableVolume::damaged('its journal is none');
        }
        $this->features = $fields['type'] === 4 ? $fields['incompatible'] : 0;
        $this->first = max(1, $fields['first']);
        $this->length = min($fields['length'], self::MOST);
        $this->uuid = substr($super, 48, 16);
        if (($this->features & ~self::KNOWN) !== 0) {
            throw UnreadableVolume::because('has a journal with features that are not read');
        }
        if ($fields['start'] !== 0) {
            $transactions = $this->transactions($fields['start'], $fields['sequence']);
            array_map($this->play(...), array_keys($transactions), $transactions);
        }
    }

    /**
     * @param  list<array{int, int, int}>  $places
     *
     * @throws UnreadableVolume
     */
    public static function read(Disk $disk, int $blockSize, array $places): self
    {
        return new self($disk, $blockSize, $places);
    }

    public function isEmpty(): bool
    {
        return $this->newer === [];
    }

    /** A block of the volume as the journal has it; null where what lies there counts. */
    public function newer(int $block): ?string
    {
        if (! isset($this->newer[$block])) {
            return null;
        }
        [$at, $isEscaped] = $this->newer[$block];
        $bytes = $this->block($at);

        return $isEscaped ? substr_replace($bytes, pack('N', self::MAGIC), 0, 4) : $bytes;
    }

    private function block(int $number): string
    {
        foreach ($this->places as [$from, $at, $count]) {
            if ($number >= $from && $number < $from + $count && $at > 0) {
                return $this->disk->read(($at + $number - $from) * $this->blockSize, $this->blockSize);
            }
        }
        throw UnreadableVolume::damaged("its journal has no block $number");
    }

    /**
     * Those that were committed, up to the first that was not.
     *
     * @return array<int, list<array{int, int, bool}>> sequence => block of the volume, block of the journal, whether it is escaped
     */
    private function transactions(int $at, int $sequence): array
    {
        $transactions = [];
        $open = $revoked = [];
        for ($seen = 0; $seen < $this->length; $seen++) {
            $bytes = $this->block($at);
            $head = unpack('Nmagic/Ntype/Nsequence', $bytes);
            if ($head === false || $head['magic'] !== self::MAGIC || $head['sequence'] !== $sequence) {
                break;
            }
            $next = $this->after($at);
            if ($head['type'] === self::DESCRIPTOR) {
                foreach ($this->tags($bytes) as [$block, $flags, $sum]) {
                    if (! $this->isRight($next, $sequence, $sum)) {
                        $this->isBroken = true;

                        return $transactions;
                    }
                    $open[] = [$block, $next, ($flags & self::ESCAPED) !== 0];
                    $next = $this->after($next);
                    $seen++;
                }
            } elseif ($head['type'] === self::REVOKE) {
                $revoked = [...$revoked, ...$this->revocations($bytes)];
            } elseif ($head['type'] === self::COMMIT) {
                $transactions[$sequence] = $open;
                foreach ($revoked as $block) {
                    $this->revoked[$block] = $sequence;
                }
                $open = $revoked = [];
                $sequence = ($sequence + 1) & 0xFFFFFFFF;
            } else {
                break;
            }
            $at = $next;
        }
        $this->isBroken = $this->isBroken || $open !== [];

        return $transactions;
    }

    private function after(int $block): int
    {
        return $block + 1 >= $this->length ? $this->first : $block + 1;
    }

    /** @return iterable<array{int, int, int|null}> block of the volume, flags, and checksum */
    private function tags(string $bytes): iterable
    {
        $hasSums = ($this->features & (self::SUMS_16 | self::SUMS_32)) !== 0;
        $end = strlen($bytes) - ($hasSums ? 4 : 0);
        $isWide = ($this->features & self::WIDE) !== 0;
        $is32 = ($this->features & self::SUMS_32) !== 0;
        $size = $is32 ? 16 : ($isWide ? 12 : 8);
        for ($at = 12; $at + $size <= $end; $at += $size + (($tag['flags'] & self::SAME_UUID) !== 0 ? 0 : 16)) {
            $tag = $is32
                ? unpack('Nlow/Nflags/Nhigh/Nsum', $bytes, $at)
                : unpack('Nlow/nsum/nflags'.($isWide ? '/Nhigh' : ''), $bytes, $at);
            assert($tag !== false);
            $sum = ($this->features & (self::SUMS_16 | self::SUMS_32)) === 0 ? null : $tag['sum'];
            yield [(($isWide ? $tag['high'] ?? 0 : 0) << 32) | $tag['low'], $tag['flags'], $sum];
            if (($tag['flags'] & self::LAST) !== 0) {
                return;
            }
        }
    }

    /** The sum goes on from the journal's own name through the number of the transaction to the block (crc32c). */
    private function isRight(int $at, int $sequence, ?int $sum): bool
    {
        if ($sum === null) {
            return true;
        }
        $is = (int) hexdec(hash('crc32c', $this->uuid.pack('N', $sequence).$this->block($at))) ^ 0xFFFFFFFF;

        return $sum === (($this->features & self::SUMS_32) !== 0 ? $is : $is & 0xFFFF);
    }

    /** @return list<int> blocks of the volume that earlier transactions of the journal say nothing of any more */
    private function revocations(string $bytes): array
    {
        $length = min(strlen($bytes), unpack('N', $bytes, 12)[1] ?? 0);

        $numbers = ($this->features & self::WIDE) !== 0 ? 'J*' : 'N*';

        return $length <= 16 ? [] : array_values(unpack($numbers, substr($bytes, 16, $length - 16)) ?: []);
    }

    /** @param  list<array{int, int, bool}>  $blocks */
    private function play(int $sequence, array $blocks): void
    {
        foreach ($blocks as [$block, $at, $isEscaped]) {
            if (($this->revoked[$block] ?? -1) < $sequence) {
                $this->newer[$block] = [$at, $isEscaped];
            }
        }
    }
}
