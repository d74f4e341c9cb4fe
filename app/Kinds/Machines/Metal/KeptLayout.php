<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Order\CannotBring;
use App\Models\BackupSet;
use App\Sets\Points;
use App\Sets\SetOutline;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Metal\RecordedPartition;
use Kaiseki\Core\Volume\UefiLoader;

/** How the disks of a set were laid out, kept with it once it was read off them: a set does not change. */
final class KeptLayout
{
    /** In the facts of a set. */
    private const FACT = 'layout';

    private const LOADERS = 'loaders';

    /** Bytes of a partition that is looked into for that. */
    private const LARGEST = 1 << 31;

    /** Null if nobody read it yet. */
    public static function of(BackupSet $set): ?LayoutRecord
    {
        $kept = $set->facts[self::FACT] ?? null;

        return $kept === null ? null : LayoutRecord::ofJson((string) json_encode($kept));
    }

    /** @throws CannotBring if it cannot be read */
    public static function read(Points $points, SetOutline $point, CopyRule $copies): LayoutRecord
    {
        $set = $points->model($point);
        $record = self::of($set);
        if ($record === null) {
            $source = MetalSources::of($points, $point, $copies);
            $record = $source->record();
            $facts = [self::FACT => $record->toArray(), self::LOADERS => self::loaders($source, $record)];
            $set->update(['facts' => $facts + ($set->facts ?? [])]);
        }

        return $record;
    }

    /**
     * Of each disk with an EFI system partition that can be looked into, whether a firmware finds a loader there by itself.
     *
     * @return array<string, bool>
     */
    private static function loaders(MetalSource $source, LayoutRecord $record): array
    {
        $found = [];
        foreach ($record->disks as $disk) {
            foreach ($disk->partitions as $one) {
                $isOne = in_array($one->type, RecordedPartition::EFI_SYSTEM, true) && $one->bytes <= self::LARGEST;
                $files = $isOne ? $source->startingFiles($disk->key($one), $one->bytes) : null;
                $files === null || $found[$disk->name] = ($found[$disk->name] ?? false) || UefiLoader::isOn($files);
            }
        }

        return $found;
    }

    /**
     * Why a firmware by UEFI may start nothing of these disks.
     *
     * @param  list<PlannedDisk>  $disks
     * @return list<string> in sentences
     */
    public static function cautions(BackupSet $set, array $disks): array
    {
        $loaders = (array) ($set->facts[self::LOADERS] ?? []);
        $without = array_filter($disks, fn (PlannedDisk $disk): bool => ($loaders[$disk->was->name] ?? null) === false);

        return array_values(array_map(
            fn (PlannedDisk $disk): string => "It starts by UEFI there, and {$disk->was->name} has no ".UefiLoader::path().' on its EFI '.
                'system partition: make an entry for its own loader in the menu of that firmware, or have one put there before.',
            $without,
        ));
    }
}
