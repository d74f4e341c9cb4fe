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
        $copy = null;
        foreach (SetPart::all($set) as $part) {
            $copy = self::isPartThere($part, $store, $stores) ? $copy : self::makePart($part, $store, $stores);
        }

        return $copy ?? throw CannotRegister::because("{$set->name} has a copy on {$store->name} already.");
    }

    /** @throws CannotRegister */
    private static function makePart(SetPart $part, Store $store, OpenStores $stores): Copy
    {
        $set = $part->set;
        [$archive, $name, $isSpool] = self::archive($part, $stores);
        try {
            $stored = $stores->of($store)->add("{$set->workload->name}/$name", $archive);
            $beside = false;
            foreach ($isSpool || $part->number > 0 ? [] : SidecarFiles::ENDINGS as $ending) {
                $file = dirname($archive)."/{$set->name}$ending";
                if (is_file($file)) {
                    $stores->of($store)->add("{$set->workload->name}/{$set->name}$ending", $file);
                    $beside = $store->kind !== 'tape';
                }
            }
        } catch (UnableToStore $unable) {
            throw CannotRegister::because(ucfirst($part->inWords())." was not copied to {$store->name}: {$unable->getMessage()}.");
        } finally {
            if ($isSpool) {
                @unlink($archive);
            }
            $stores->release();
        }

        return self::register($part, $store, $stored, str_ends_with($name, 'gz'), $beside);
    }

    /** Whether the store has a copy of each part of the set, whatever its state, and not only says so. */
    public static function isThere(BackupSet $set, Store $store, OpenStores $stores = new OpenStores): bool
    {
        return array_filter(SetPart::all($set), fn (SetPart $part): bool => ! self::isPartThere($part, $store, $stores)) === [];
    }

    private static function isPartThere(SetPart $part, Store $store, OpenStores $stores): bool
    {
        $copy = $part->set->copies->where('part', $part->number)->firstWhere('store_id', $store->id);

        return $copy !== null && self::look($stores, $copy)->state !== CopyState::Missing;
    }

    private static function register(SetPart $part, Store $store, StoredCopy $stored, bool $gzipped, bool $beside): Copy
    {
        // One that was listed but is not there is written anew.
        return Copy::query()->updateOrCreate(
            ['set_id' => $part->set->id, 'store_id' => $store->id, 'part' => $part->number],
            [
                'path' => $stored->path,
                'state_because' => null,
                'checked_at' => null,
                'bytes' => $stored->bytes,
                'state' => 'ok',
                'gzipped' => $gzipped,
                'has_beside' => $beside,
                'damage' => null,
                'segments' => $stored->segments === []
                    ? null
                    : array_map(fn (TapeSegment $segment): array => $segment->toArray(), $stored->segments),
            ],
        );
    }

    /**
     * The archive as a file of this machine: where it lies, or fetched from another kind of store.
     *
     * @return array{string, string, bool} the file, its name, and whether it is a spool of ours
     */
    private static function archive(SetPart $part, OpenStores $stores): array
    {
        $because = 'it has no copy';
        $copies = $part->set->copies->where('part', $part->number)->sortBy(fn (Copy $copy): int => $copy->store->kind === 'folder' ? 0 : 1);
        foreach ($copies as $copy) {
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
        throw CannotRegister::because("There is no readable copy of {$part->inWords()} to copy: ".lcfirst($because));
    }

    private static function look(OpenStores $stores, Copy $copy): CopyLook
    {
        $stored = StoredCopy::of($copy);

        return $copy->state === CopyState::Missing->value
            ? new CopyLook(CopyState::Missing)
            : $stores->of($copy->store)->look($stored->path, $stored->bytes, $stored->segments);
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
