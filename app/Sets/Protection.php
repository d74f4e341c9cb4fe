<?php

declare(strict_types=1);

namespace App\Sets;

use App\Kinds\Kinds;
use App\Kinds\MakingOrder;
use App\Models\BackupSet;
use App\Models\Making;
use App\Models\Schedule;
use App\Models\Store;
use App\Models\Workload;
use App\NamedLock;
use App\Runs\WorkerProcess;
use App\Stores\ClosedFolder;
use App\Stores\UnableToStore;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;
use Throwable;

/** Has sets made of live originals, one at a time of each. */
final class Protection
{
    /**
     * Makes a set, and writes down that it was made, or why not.
     *
     * @param  Making|null  $making  where that is written down already, with who wanted it
     *
     * @throws InvalidArgumentException if the order makes no sense; nothing is written down then, unless it was before
     * @throws CannotRegister
     */
    public static function make(Workload $workload, MakingOrder $order, ?Making $making = null): BackupSet
    {
        $lock = "make {$workload->id}";
        if (! NamedLock::take($lock)) {
            throw CannotRegister::because("A set of {$workload->name} is being made already.");
        }
        $making ??= new Making([
            'workload_id' => $workload->id,
            'store_id' => $order->store->id,
            'level' => $order->level->name,
            'why' => $order->why,
        ]);
        try {
            $making->fill(['state' => 'running', 'worker' => WorkerProcess::own(), 'started_at' => now()])->save();
            $set = Kinds::of($workload)->source($workload)->make($order);
            $making->update(['state' => 'done', 'set_name' => $set->name, 'entries' => $set->entries, 'ended_at' => now()]);

            return $set;
        } catch (InvalidArgumentException $senseless) {
            $making->wasRecentlyCreated ? $making->delete() : self::fail($making, $senseless);
            throw $senseless;
        } catch (Throwable $failure) {
            self::fail($making, $failure);
            throw $failure;
        } finally {
            NamedLock::free($lock);
        }
    }

    private static function fail(Making $making, Throwable $failure): void
    {
        $making->update(['state' => 'failed', 'failure' => mb_scrub($failure->getMessage()), 'ended_at' => now()]);
    }

    /**
     * A set of a workload as it is now, where its sets are made.
     *
     * @param  string  $why  it is made, in a few words
     *
     * @throws CannotRegister
     * @throws InvalidArgumentException
     */
    public static function ofPresent(Workload $workload, string $why = 'before something is written over'): BackupSet
    {
        return self::make(
            $workload,
            new MakingOrder(
                self::usualStore($workload),
                Level::of(Kinds::of($workload)->source($workload)->levelOfPresent()),
                why: $why,
            ),
        );
    }

    /**
     * The store that sets of it are written to: by its schedule, else the nearest of ours.
     *
     * @throws CannotRegister if there is none
     */
    public static function usualStore(Workload $workload): Store
    {
        return Schedule::query()->with('store')->where('workload_id', $workload->id)->first()->store ??
            (Store::query()
                ->where('kind', 'folder')
                ->where('read_only', false)
                ->orderByRaw('site <> ?', [$workload->site])
                ->orderBy('id')
                ->first() ??
                throw CannotRegister::because('there is no store of ours to write it to'));
    }

    /**
     * That a set can be written to a store.
     *
     * @return list<string> what was mended for that
     *
     * @throws CannotRegister if it is not ours, no folder, or others can read it
     */
    public static function closed(Store $store): array
    {
        if ($store->read_only) {
            throw CannotRegister::because("The store {$store->name} is read-only for us.");
        }
        if ($store->kind !== 'folder') {
            throw CannotRegister::because("A set is written to a folder first; copy it to {$store->name} after that.");
        }
        try {
            return array_values(array_filter([ClosedFolder::mend($store->root)]));
        } catch (UnableToStore $unable) {
            throw CannotRegister::because($unable->getMessage());
        }
    }
}
