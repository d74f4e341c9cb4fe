<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\CartridgeCall;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use App\Runs\Shelf;
use App\Sets\OnCartridge;
use App\Stores\CartridgeStore;
use App\Stores\OpenStores;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Kaiseki\Core\Tape\Cartridge;
use Kaiseki\Core\Tape\UnableToUseTape;

/** One cartridge: what is on it, what it gives alone, and where it is. */
final class CartridgeController
{
    public function show(Request $request, Store $store, string $label): View
    {
        $user = $request->user();
        assert($user instanceof User);
        $calls = CartridgeCall::query()->with('run.workload')->where('store_id', $store->id)->where('label', $label)
            ->latest('id')->limit(10)->get();

        $contents = OnCartridge::of($store, $label, Workload::seenBy($user)->pluck('id')->all());

        return view('stores.cartridge', [
            'store' => $store, 'cartridge' => self::cartridge($store, $label), 'zone' => $user->zone,
            'contents' => $contents, 'alone' => count(array_filter($contents, fn (OnCartridge $set): bool => $set->isPointAlone)),
            'calls' => $calls->filter(fn (CartridgeCall $call): bool => $call->run === null || $user->can('view', $call->run)),
            'canHandle' => $user->can('tend', $store),
        ]);
    }

    /** It is asked for, has arrived in the library, or was taken out. */
    public function update(Request $request, Store $store, string $label): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        self::cartridge($store, $label);
        try {
            switch ($request->string('do')->value()) {
                case 'call':
                    Shelf::call(["{$store->name}/$label"], null, $user);
                    $told = "$label is asked for.";
                    break;
                case 'arrived':
                    Shelf::arrived($store, $label, $user);
                    $told = "$label is in the library; what waited for it goes on.";
                    break;
                case 'out':
                    Shelf::takenOut($store, $label, $user);
                    $told = "$label is on the shelf.";
                    break;
                default:
                    abort(404);
            }
        } catch (UnableToUseTape $unable) {
            return back()->withErrors(['label' => ucfirst($unable->getMessage()).'.']);
        }

        return back()->with('told', $told);
    }

    private static function cartridge(Store $store, string $label): Cartridge
    {
        $open = (new OpenStores)->of($store);
        if (! $open instanceof CartridgeStore || $open->silence() !== null) {
            abort(404);
        }

        return $open->cartridges()[$label] ?? abort(404);
    }
}
