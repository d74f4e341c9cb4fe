<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use App\Sets\ContentRead;
use App\Stores\CartridgeStore;
use App\Stores\OpenStores;
use App\Trees\Catalog\CatalogSearch;
use App\Trees\Catalog\FoundVersion;
use App\Trees\Catalog\TextIndex;
use App\View\SearchForm;
use App\View\SearchHit;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Kaiseki\Core\Tape\Cartridge;

final class SearchController
{
    private const MOST = 200;

    public function __invoke(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);
        $form = new SearchForm($request, $user);
        $words = $form->name;
        $hits = [];
        $mayBrowse = $user->role === Role::Operator;
        foreach (
            $mayBrowse && ! $form->isEmpty() && $form->problem === null ? Workload::seenBy($user)->orderBy('name')->get() : [] as $workload
        ) {
            if ($request->filled('workload') && $request->integer('workload') !== $workload->id) {
                continue;
            }
            $found = (new CatalogSearch)->find($workload, $form->query(), self::MOST);
            array_push(
                $hits,
                ...SearchHit::group(
                    $workload,
                    $found,
                    fn (FoundVersion $version): ?string => $form->text === '' || $version->version->digest === null
                        ? null
                        : TextIndex::line($version->version->digest, $form->text),
                ),
            );
        }

        if ($mayBrowse && ! $form->isEmpty() && $form->problem === null) {
            ContentRead::told('Searched across what is stored: '.urldecode($form->address()), null, $user);
        }

        return view('search', [
            'form' => $form,
            'mayBrowse' => $mayBrowse,
            'all' => $mayBrowse ? Workload::seenBy($user)->orderBy('name')->get() : collect(),
            'isBehind' => $form->text.$form->author !== ''
                && Workload::seenBy($user)->pluck('id')->contains(fn (int $id): bool => TextIndex::isBehind($id)),
            'cartridges' => $user->role === Role::Operator && $words !== '' ? self::cartridges($words) : [],
            'workloads' => $words === '' || $user->cannot('see-estate')
                    ? collect()
                    : Workload::seenBy($user)
                        ->where('name', 'like', '%'.addcslashes($words, '%_\\').'%')
                        ->orderBy('name')
                        ->get(),
            'words' => $words,
            'hits' => array_slice($hits, 0, self::MOST),
            'requests' => $words === ''
                    ? collect()
                    : RecoveryRequest::seenBy($user)
                        ->with('requester')
                        ->where(
                            fn ($query) => $query
                                ->where('id', ctype_digit($words) ? (int) $words : 0)
                                ->orWhere('summary', 'like', '%'.addcslashes($words, '%_\\').'%'),
                        )
                        ->latest('id')
                        ->limit(20)
                        ->get(),
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
