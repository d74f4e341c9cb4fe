<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;

/** What the first sector of NTFS says of its sizes, and the disk that it is on. */
final readonly class NtfsGeometry
{
    /**
     * @param  int  $cluster  bytes of one
     * @param  int  $clusters  so many
     * @param  int  $record  bytes of a record of a file
     * @param  int  $indexRecord  bytes of a record of a folder
     * @param  int  $table  the cluster that the table of files begins at
     */
    private function __construct(
        public Disk $disk,
        public int $cluster,
        public int $clusters,
        public int $record,
        public int $indexRecord,
        public int $table,
    ) {
    }

    /** @throws UnreadableVolume if that cannot be */
    public static function of(Disk $disk, string $boot): self
    {
        $fields = unpack('vsector/CperCluster', $boot, 11) + unpack('Psectors/Ptable/x8/crecord/x3/cindex', $boot, 40);
        $sector = $fields['sector'];
        $perCluster = $fields['perCluster'] > 0x80 ? 1 << (256 - $fields['perCluster']) : $fields['perCluster'];
        $cluster = $sector * $perCluster;
        $bytes = fn (int $said): int => $said < 0 ? 1 << min(30, -$said) : $said * $cluster;
        [$record, $index] = [$bytes($fields['record']), $bytes($fields['index'])];
        $isPlausible = in_array($sector, [512, 1024, 2048, 4096], true) && $cluster > 0 && $cluster <= 2 << 20
            && ($cluster & ($cluster - 1)) === 0 && self::isRecord($record) && self::isRecord($index)
            && $fields['sectors'] > 0 && $fields['sectors'] <= intdiv($disk->size(), $sector);
        $clusters = $isPlausible ? intdiv($fields['sectors'] * $sector, $cluster) : 0;

        return $isPlausible && $fields['table'] > 0 && $fields['table'] < $clusters
            ? new self($disk, $cluster, $clusters, $record, $index, $fields['table'])
            : throw UnreadableVolume::damaged('its first sector says what cannot be');
    }

    private static function isRecord(int $bytes): bool
    {
        return $bytes >= 512 && $bytes <= 65_536 && ($bytes & ($bytes - 1)) === 0;
    }
}
