<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** A volume group of LVM, as the newest of what its parts say of it has it. */
final readonly class VolumeGroup
{
    public const SECTOR = 512;

    private const MOST = 1000;

    /** Of names: lvm(8), "Valid names". */
    private const NAME = '/^(?!-)(?!\.{1,2}$)[A-Za-z0-9+_.-]{1,127}$/D';

    /**
     * @param  string  $id  as LVM writes it, with dashes
     * @param  int  $extent  bytes
     * @param  list<string>  $parts  ids of all of its physical volumes, without dashes
     * @param  list<GroupVolume>  $volumes  those that people see, but for snapshots
     * @param  list<string>  $snapshots  their names
     */
    private function __construct(
        public string $name,
        public string $id,
        public int $extent,
        public array $parts,
        public array $volumes,
        public array $snapshots,
    ) {
    }

    /**
     * One of which cannot be what is said of it is left away.
     *
     * @param  list<PhysicalVolume>  $on
     * @return array<array-key, self> by name
     */
    public static function among(array $on): array
    {
        $newest = [];
        foreach ($on as $physical) {
            foreach ($physical->group as $name => $group) {
                if (is_array($group) && isset($group['physical_volumes'])) {
                    // Of what two disks say of one group the newer holds.
                    if (! isset($newest[$name]) || self::version($group) > self::version($newest[$name])) {
                        $newest[$name] = $group;
                    }
                }
            }
        }
        $groups = [];
        foreach ($newest as $name => $group) {
            try {
                $groups[$name] = self::of((string) $name, $group);
            } catch (UnreadableVolume) {
                continue;
            }
        }

        return $groups;
    }

    /** @param  array<mixed>  $group */
    private static function version(array $group): int
    {
        return is_int($group['seqno'] ?? null) ? $group['seqno'] : PHP_INT_MIN;
    }

    /** @param  array<mixed>  $group */
    private static function of(string $name, array $group): self
    {
        $extent = self::number($group, 'extent_size') * self::SECTOR;
        if (preg_match(self::NAME, $name) !== 1 || $extent < 1 || $extent > 1 << 40) {
            throw UnreadableVolume::damaged('what it says of its volume group cannot be');
        }
        $parts = [];
        foreach ((array) $group['physical_volumes'] as $part => $of) {
            $of = (array) $of;
            $parts[(string) $part] = [self::plain(strval($of['id'] ?? '')), self::number($of, 'pe_start') * self::SECTOR];
        }
        $all = array_slice((array) ($group['logical_volumes'] ?? []), 0, self::MOST, true);
        $stores = self::stores($all);
        $volumes = $snapshots = [];
        foreach ($all as $volume => $of) {
            $of = (array) $of;
            if (in_array((string) $volume, $stores, true)) {
                $snapshots[] = (string) $volume;
            } elseif (in_array('VISIBLE', (array) ($of['status'] ?? []), true)) {
                preg_match(self::NAME, (string) $volume) === 1 || throw UnreadableVolume::damaged('a volume of its group has no name');
                $volumes[] = self::volume((string) $volume, $of, $extent, $parts);
            }
        }

        return new self($name, strval($group['id'] ?? ''), $extent, array_column($parts, 0), $volumes, $snapshots);
    }

    /**
     * What snapshots keep of before: no volumes by themselves, though they are seen.
     *
     * @param  array<array-key, mixed>  $volumes
     * @return list<string>
     */
    private static function stores(array $volumes): array
    {
        $stores = [];
        foreach ($volumes as $of) {
            $segment = (array) (((array) $of)['segment1'] ?? []);
            ($segment['type'] ?? '') !== 'snapshot' || $stores[] = strval($segment['cow_store'] ?? $segment['merging_store'] ?? '');
        }

        return $stores;
    }

    /**
     * @param  array<mixed>  $of
     * @param  array<string, array{string, int}>  $parts
     */
    private static function volume(string $name, array $of, int $extent, array $parts): GroupVolume
    {
        $id = strval($of['id'] ?? '');
        $bytes = 0;
        $pieces = [];
        $flaw = null;
        for ($n = 1; $n <= min(self::MOST, self::number($of, 'segment_count')); $n++) {
            $segment = (array) ($of["segment$n"] ?? []);
            $count = self::number($segment, 'extent_count');
            if ($count < 1 || $count > intdiv((1 << 60) - $bytes, $extent)) {
                throw UnreadableVolume::damaged('a volume of its group has a size that none has');
            }
            $length = $count * $extent;
            try {
                $isNext = self::number($segment, 'start_extent') === intdiv($bytes, $extent);
                $isNext || throw UnreadableVolume::damaged('its pieces leave gaps');
                $pieces[] = self::piece($segment, $length, $extent, $parts);
            } catch (UnreadableVolume $unreadable) {
                $flaw ??= $unreadable;
            }
            $bytes += $length;
        }
        $bytes > 0 || $flaw = UnreadableVolume::damaged('it has no piece');

        return new GroupVolume($name, $id, $bytes, $flaw === null ? $pieces : [], $flaw);
    }

    /**
     * @param  array<mixed>  $segment
     * @param  array<string, array{string, int}>  $parts
     */
    private static function piece(array $segment, int $length, int $extent, array $parts): VolumePiece
    {
        if (($segment['type'] ?? '') !== 'striped') {
            $type = mb_scrub(strval($segment['type'] ?? ''));
            throw UnreadableVolume::because("is a volume of LVM that is not made of plain pieces ($type)");
        }
        $told = array_values((array) ($segment['stripes'] ?? []));
        $stripes = [];
        for ($i = 0; $i + 1 < count($told); $i += 2) {
            [$id, $start] = $parts[(string) $told[$i]] ?? throw UnreadableVolume::damaged('a piece of it lies on no disk');
            $at = min(max(0, (int) $told[$i + 1]), intdiv(1 << 60, $extent)) * $extent;
            $stripes[] = [$id, $start + $at];
        }
        if ($stripes === [] || count($stripes) !== self::number($segment, 'stripe_count')) {
            throw UnreadableVolume::damaged('its stripes are not those it counts');
        }
        $width = count($stripes) > 1 ? max(self::SECTOR, self::number($segment, 'stripe_size') * self::SECTOR) : $length;

        return new VolumePiece($length, $width, $stripes);
    }

    /** Bytes of a part that volumes take. */
    public function takenOf(string $part): int
    {
        $bytes = 0;
        foreach ($this->volumes as $volume) {
            foreach ($volume->pieces as $piece) {
                foreach ($piece->stripes as [$id]) {
                    $bytes += $id === $part ? intdiv($piece->bytes, count($piece->stripes)) : 0;
                }
            }
        }

        return $bytes;
    }

    /** An id without its dashes, as labels have it. */
    public static function plain(string $id): string
    {
        return str_replace('-', '', $id);
    }

    /** An id with its dashes, as texts have it. */
    public static function dashed(string $id): string
    {
        return preg_replace('/^(.{6})(.{4})(.{4})(.{4})(.{4})(.{4})(.{6})$/D', '$1-$2-$3-$4-$5-$6-$7', $id) ?? $id;
    }

    /** @param  array<mixed>  $of */
    private static function number(array $of, string $name): int
    {
        $value = $of[$name] ?? 0;

        return is_int($value) && $value >= 0 && $value < 1 << 40 ? $value : throw UnreadableVolume::damaged("its $name is none");
    }
}
