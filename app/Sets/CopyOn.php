<?php

declare(strict_types=1);

namespace App\Sets;

use App\Instance;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\Store;
use App\Stores\CopyLook;
use App\Stores\OpenStores;
use App\Stores\StoredCopy;
use App\Stores\UnableToStore;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Tape\TapeSegment;

/** Copies a set, with what lies beside it, from a readable copy to another store. */
final class CopyOn
{
    /** @throws CannotRegister */
    public static function make(BackupSet $set, Store $store, OpenStores $stores = new OpenStores): Copy
    {
        if ($store->read_only) {
            throw CannotRegister::because("The store {$store->name} is read-only for us.");
        }
        if (self::isThere($set, $store, $stores)) {
            throw CannotRegister::because("{$set->name} has a copy on {$store->name} already.");
        }
        [$archive, $name, $isSpool] = self::archive($set, $stores);
        try {
            $stored = $stores->of($store)->add("{$set->workload->name}/$name", $archive);
            $beside = false;
            foreach ($isSpool ? [] : SidecarFiles::ENDINGS as $ending) {
                $file = dirname($archive)."/{$set->name}$ending";
                if (is_file($file)) {
                    $stores->of($store)->add("{$set->workload->name}/{$set->name}$ending", $file);
                    $beside = $store->kind !== 'tape';
                }
            }
        } catch (UnableToStore $unable) {
            throw CannotRegister::because("{$set->name} was not copied to {$store->name}: {$unable->getMessage()}.");
        } finally {
            if ($isSpool) {
                @unlink($archive);
            }
            $stores->release();
        }

        return self::register($set, $store, $stored, str_ends_with($name, 'gz'), $beside);
    }

    /** Whether the store has a copy of the set, whatever its state, and not only says so. */
    public static function isThere(BackupSet $set, Store $store, OpenStores $stores = new OpenStores): bool
    {
        $copy = $set->copies->firstWhere('store_id', $store->id);

        return $copy !== null && self::look($stores, $copy)->state !== CopyState::Missing;
    }

    private static function register(BackupSet $set, Store $store, StoredCopy $stored, bool $gzipped, bool $beside): Copy
    {
        // One that was listed but is not there is written anew.
        return Copy::query()->updateOrCreate(['set_id' => $set->id, 'store_id' => $store->id], [
            'path' => $stored->path, 'state_because' => null, 'checked_at' => null, 'bytes' => $stored->bytes, 'state' => 'ok', 'gzipped' => $gzipped, 'has_beside' => $beside, 'damage' => null,
            'segments' => $stored->segments === [] ? null : array_map(fn (TapeSegment $segment): array => $segment->toArray(), $stored->segments),
        ]);
    }

    /**
     * The archive as a file of this machine: where it lies, or fetched from another kind of store.
     *
     * @return array{string, string, bool} the file, its name, and whether it is a spool of ours
     */
    private static function archive(BackupSet $set, OpenStores $stores): array
    {
        $because = 'it has no copy';
        foreach ($set->copies->sortBy(fn (Copy $copy): int => $copy->store->kind === 'folder' ? 0 : 1) as $copy) {
            $stored = StoredCopy::of($copy);
            $look = self::look($stores, $copy);
            if (! in_array($copy->state, ['ok', 'checked'], true) || $look->state !== CopyState::Ok) {
                $because = $look->because ?? "the copy on {$copy->store->name} is {$copy->state}";

                continue;
            }
            if ($copy->store->kind === 'folder') {
                return ["{$copy->store->root}/{$copy->path}", basename($copy->path), false];
            }
            try {
                return [self::fetched($stores, $copy, $stored), basename($copy->path), true];
            } catch (UnreadableArchive $unreadable) {
                $because = "the copy on {$copy->store->name} {$unreadable->getMessage()}";
            }
        }
        throw CannotRegister::because("There is no readable copy of {$set->name} to copy: ".lcfirst($because));
    }

    private static function look(OpenStores $stores, Copy $copy): CopyLook
    {
        $stored = StoredCopy::of($copy);

        return $copy->state === CopyState::Missing->value ? new CopyLook(CopyState::Missing) : $stores->of($copy->store)->look($stored->path, $stored->bytes, $stored->segments);
    }

    private static function fetched(OpenStores $stores, Copy $copy, StoredCopy $stored): string
    {
        $spool = Instance::folder('tmp')."/fetched-{$copy->id}-".getmypid();
        $file = fopen($spool, 'wb');
        $bytes = $stores->of($copy->store)->raw($stored);
        $left = $stored->bytes;
        while ($file !== false && $left > 0 && ($part = $bytes->read(min(1 << 20, $left))) !== '') {
            if (fwrite($file, $part) !== strlen($part)) {
                break;
            }
            $left -= strlen($part);
        }
        if ($file === false || ! fclose($file) || $left > 0) {
            @unlink($spool);
            throw UnreadableArchive::cannotOpen('it could not be brought here whole');
        }

        return $spool;
    }
}
