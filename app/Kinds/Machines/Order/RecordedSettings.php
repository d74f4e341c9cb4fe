<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Disks\DiskFacts;
use App\Models\BackupSet;
use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\UnfitSettings;

/** How a machine was configured at a point, from the record in its set; where there is none, from what is known otherwise. */
final readonly class RecordedSettings
{
    private function __construct(
        public MachineSettings $settings,
        /** Whether the set says so; else it is assumed, and told. */
        public bool $isRecorded,
    ) {
    }

    /**
     * @param  MachineSettings|null  $present  of the machine as it stands now, if there is one
     * @param  string|null  $network  that a machine of which nothing is known is put on
     *
     * @throws UnfitSettings if its disks are none that a machine could have
     */
    public static function of(BackupSet $set, string $name, ?MachineSettings $present, ?string $network): self
    {
        $said = self::said($set);
        if ($said !== null) {
            return new self($said, true);
        }
        $disks = [];
        foreach (DiskFacts::ofSet($set) as $disk) {
            $bus = $present?->disk($disk->name)->bus ?? null;
            $size = intdiv($disk->size + 511, 512) * 512;
            $disks[] = $bus === null ? new DiskSettings($disk->name, $size) : new DiskSettings($disk->name, $size, $bus);
        }
        // Of a machine of which nothing else is known the system's disk is likely called so, and comes first.
        usort($disks, fn (DiskSettings $a, DiskSettings $b): int => self::rank($a->name) <=> self::rank($b->name));
        $cards = $network === null ? [] : [new CardSettings($network, CardSettings::newMac($name))];

        return new self($present?->with(name: $name, disks: $disks, boot: []) ?? new MachineSettings($name, $disks, $cards), false);
    }

    /**
     * @param  list<string>  $held  disks that the point has
     * @return list<string> those that the machine had besides: they were left out of its sets
     */
    public function without(array $held): array
    {
        return array_values(array_diff($this->settings->diskNames(), $held));
    }

    /** As its set says; null if it does not. */
    public static function said(BackupSet $set): ?MachineSettings
    {
        $said = $set->facts['machine'] ?? null;

        return is_array($said) ? MachineSettings::fromArray($said) : null;
    }

    private static function rank(string $disk): int
    {
        return preg_match('/^(system|root|os|boot|disk0|sda|vda)$/Di', $disk) === 1 ? 0 : 1;
    }
}
