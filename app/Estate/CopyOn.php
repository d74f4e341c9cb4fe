<?php

declare(strict_types=1);

namespace App\Estate;

use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\Store;
use Kaiseki\Core\Archive\ContentDigest;

/** Copies a set, with what lies beside it, from a readable copy to another store. */
final class CopyOn
{
    /** @throws CannotRegister */
    public static function make(BackupSet $set, Store $store): Copy
    {
        if ($store->read_only) {
            throw CannotRegister::because("The store {$store->name} is read-only for us.");
        }
        if ($set->copies->contains(fn (Copy $copy): bool => $copy->store_id === $store->id)) {
            throw CannotRegister::because("{$set->name} has a copy on {$store->name} already.");
        }
        $from = $set->copies->first(fn (Copy $copy): bool => in_array($copy->state, ['ok', 'checked'], true) && @filesize($copy->file()) === $copy->bytes)
            ?? throw CannotRegister::because("There is no readable copy of {$set->name} to copy.");
        $folder = "{$store->root}/{$set->workload->name}";
        if (! is_dir($folder) && ! @mkdir($folder, 0755, true)) {
            throw CannotRegister::because("The folder $folder cannot be made.");
        }
        $name = basename($from->file());
        foreach ([$name, "{$set->name}.manifest.jsonl", "{$set->name}.b2sum", "{$set->name}.set.json"] as $file) {
            $source = dirname($from->file()).'/'.$file;
            if (! is_file($source)) {
                continue;
            }
            if (! @copy($source, "$folder/$file.partial") || (ContentDigest::ofFile($source) ?? throw CannotRegister::because("$source cannot be read.")) !== ContentDigest::ofFile("$folder/$file.partial") || ! rename("$folder/$file.partial", "$folder/$file")) {
                @unlink("$folder/$file.partial");
                throw CannotRegister::because("The copy on {$store->name} did not come out right: is its disk full?");
            }
        }

        return Copy::query()->create(['set_id' => $set->id, 'store_id' => $store->id, 'path' => "{$set->workload->name}/$name", 'bytes' => $from->bytes, 'state' => 'ok']);
    }
}
