<?php

declare(strict_types=1);

namespace App\Runs;

use App\Jobs\CarryOutRun;
use App\Kinds\AwaitsOthers;
use App\Kinds\Kinds;
use App\Models\CartridgeCall;
use App\Models\Run;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\User;
use App\Stores\CartridgeStore;
use App\Stores\OpenStores;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Tape\UnableToUseTape;

/** Cartridges that are asked for and arrive, and the runs that wait for them. */
final class Shelf
{
    /** @param  list<string>  $cartridges  STORE/LABEL */
    public static function call(array $cartridges, ?Run $run, ?User $by = null): void
    {
        foreach ($cartridges as $name) {
            [$store, $label] = explode('/', $name, 2);
            CartridgeCall::query()->firstOrCreate(
                [
                    'store_id' => Store::query()->where('name', $store)->valueOrFail('id'),
                    'label' => $label,
                    'arrived_at' => null,
                    'run_id' => $run?->id,
                ],
                ['asked_at' => now(), 'asked_by' => $by?->id],
            );
        }
    }

    /**
     * What a run reads is asked for before it reads.
     *
     * @param  list<string>  $toFetch  STORE/LABEL, those that stand on the shelf
     * @param  list<string>  $media  that it reads, in their order
     * @return string what has to be loaded, in words
     *
     * @throws RunMustWait if one stands on the shelf
     */
    public static function attach(Run $run, array $toFetch, array $media): string
    {
        if ($toFetch !== []) {
            self::call($toFetch, $run);
            throw RunMustWait::forCartridges($toFetch);
        }

        return $media === [] ? 'nothing has to be attached' : 'to be loaded in this order: '.implode(', ', $media);
    }

    /**
     * A person put it into the library.
     *
     * @throws UnableToUseTape if the library does not know it, or has no slot free
     */
    public static function arrived(Store $store, string $label, ?User $by = null): void
    {
        self::store($store, $label)->library->putIn($label);
        $calls = CartridgeCall::query()->where('store_id', $store->id)->where('label', $label)->whereNull('arrived_at')->get();
        foreach ($calls as $call) {
            $call->update(['arrived_at' => now(), 'arrived_by' => $by?->id]);
            TrailEntry::add("The cartridge $label arrived in {$store->name}.", $call->run?->request, $by, $call->run);
        }
        $first = $calls->min('asked_at');
        if ($first !== null) {
            DB::table('rate_measurements')->insert([
                'what' => 'fetch',
                'subject' => $store->name,
                'rate' => max(1.0, $first->diffInSeconds(now(), true)),
                'weight' => 1,
                'at' => now(),
            ]);
        }
        self::goOn();
    }

    /**
     * A person took it out of the library, to the shelf.
     *
     * @throws UnableToUseTape if the library does not know it
     */
    public static function takenOut(Store $store, string $label, ?User $by = null): void
    {
        self::store($store, $label)->library->takeOut($label);
        TrailEntry::add("The cartridge $label of {$store->name} was taken to the shelf.", null, $by);
    }

    private static function store(Store $store, string $label): CartridgeStore
    {
        $open = (new OpenStores)->of($store);

        return $open instanceof CartridgeStore ? $open : throw UnableToUseTape::unknown($label);
    }

    /** Runs whose wait is over are carried on. */
    public static function goOn(): void
    {
        $stores = new OpenStores;
        foreach (Run::query()->where('state', 'waiting')->get() as $run) {
            if (array_filter($run->waits_for ?? [], fn (string $name): bool => ! self::hasCome($run, $stores, $name)) === []) {
                // Of two that see it at once, one sends it on.
                if (
                    Run::query()
                        ->whereKey($run->id)
                        ->where('state', 'waiting')
                        ->update(['state' => 'queued', 'waits_for' => null]) === 1
                ) {
                    CarryOutRun::dispatch($run->id);
                }
            }
        }
    }

    private static function hasCome(Run $run, OpenStores $stores, string $name): bool
    {
        $carrier = Kinds::of($run)->carrier();

        return self::isThere($stores, $name) || ($carrier instanceof AwaitsOthers && $carrier->hasCome($run, $name));
    }

    private static function isThere(OpenStores $stores, string $name): bool
    {
        $store = $stores->all()->firstWhere('name', strstr($name, '/', true) ?: $name);
        if ($store === null) {
            return false;
        }
        $open = $stores->of($store);
        if ($open->silence() !== null) {
            return false;
        }
        $label = strrchr($name, '/');

        return $label === false ||
            ! ($open instanceof CartridgeStore) ||
            ($open->cartridges()[substr($label, 1)] ?? null)?->isOnShelf() === false;
    }
}
