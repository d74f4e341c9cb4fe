<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Disks\DiskFacts;
use App\Models\BackupSet;
use App\Words;

/** What a person must know to make a machine of its images elsewhere: a text beside them. */
final class SettingsSheet
{
    public static function of(BackupSet $set, MachineOrder $order): string
    {
        $rows = ['as of' => "{$set->name}, ".$set->captured_at->utc()->format('Y-m-d H:i:s').' UTC'];
        $rows += RecordedSettings::said($set)?->words()
            ?? ['settings' => 'not known: the set does not say how the machine was configured'];
        foreach ($order->disks as $disk) {
            $size = DiskFacts::ofSet($set)[$disk]->size ?? 0;
            $rows["disk $disk"] = $order->fileOf($disk).', '.Words::size($size).", $size bytes";
        }
        $left = array_map(strval(...), (array) ($set->facts['excluded'] ?? []));
        $rows += $left === [] ? [] : ['left out' => implode(', ', $left).': no set has them'];
        $rows['digests'] = "b2sum --length=256 --check {$order->digests()}";
        $width = max(array_map(strlen(...), array_keys($rows)));
        $lines = array_map(fn (string $what, string $is): string => str_pad($what, $width + 2).$is, array_keys($rows), $rows);

        return "{$order->name}\n\n".implode("\n", $lines)."\n";
    }
}
