<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Catalog\CatalogReader;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use App\Stores\CartridgeStore;
use App\Stores\OpenStores;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Kaiseki\Core\Tape\Cartridge;

final class SearchController
{
    public function __invoke(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);
        $words = trim($request->string('q')->value());
        $found = [];
        if (mb_strlen($words) >= 2 && $user->role === Role::Operator) {
            foreach (Workload::seenBy($user)->orderBy('name')->get() as $workload) {
                foreach ((new CatalogReader)->find($workload, mb_substr($words, 0, 200), null, null, 100) as $version) {
                    $found[$workload->name."\0".$version->path] ??= ['workload' => $workload, 'path' => $version->path, 'versions' => 0, 'first' => $version->first, 'last' => $version];
                    $found[$workload->name."\0".$version->path]['versions']++;
                    $found[$workload->name."\0".$version->path]['first'] = min($found[$workload->name."\0".$version->path]['first'], $version->first);
                }
            }
        }

        return view('search', [
            'cartridges' => $user->role === Role::Operator && $words !== '' ? self::cartridges($words) : [],
            'workloads' => $words === '' ? collect() : Workload::seenBy($user)->where('name', 'like', '%'.addcslashes($words, '%_\\').'%')->orderBy('name')->get(),
            'words' => $words, 'found' => array_slice(array_values($found), 0, 100),
            'requests' => $words === '' ? collect() : RecoveryRequest::seenBy($user)->with('requester')->where(fn ($query) => $query->where('id', ctype_digit($words) ? (int) $words : 0)->orWhere('summary', 'like', '%'.addcslashes($words, '%_\\').'%'))->latest('id')->limit(20)->get(),
        ]);
    }

    /** @return list<array{store: Store, cartridge: Cartridge}> whose label begins so: somebody may have one in hand */
    private static function cartridges(string $words): array
    {
        $found = [];
        $stores = new OpenStores;
        foreach ($stores->all()->where('kind', 'tape') as $store) {
            $open = $stores->of($store);
            foreach ($open instanceof CartridgeStore && $open->silence() === null ? $open->cartridges() : [] as $cartridge) {
                if (str_starts_with($cartridge->label, strtoupper($words))) {
                    $found[] = ['store' => $store, 'cartridge' => $cartridge];
                }
            }
        }

        return array_slice($found, 0, 50);
    }
}
