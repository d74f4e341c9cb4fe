<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Copy;
use App\Models\Lane;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

final class StoreController
{
    public function __invoke(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);
        $seen = Workload::seenBy($user)->select('id');
        $trouble = Copy::query()->with('set.workload', 'store')->whereHas('set', fn ($query) => $query->whereIn('workload_id', $seen))->get()
            ->map(function (Copy $copy): ?array {
                $size = @filesize($copy->file());
                $because = match (true) {
                    in_array($copy->state, ['damaged', 'missing'], true) => $copy->state_because ?? $copy->state,
                    $size === false => 'The file is not there.',
                    $size !== $copy->bytes => 'The file has '.number_format($size).' bytes, but had '.number_format($copy->bytes).'.',
                    default => null,
                };

                return $because === null ? null : ['copy' => $copy, 'because' => $because];
            })->filter();

        return view('stores', [
            'stores' => Store::query()->orderBy('name')->get(), 'lanes' => Lane::query()->orderBy('from_site')->get(), 'trouble' => $trouble,
            'counts' => Copy::query()->selectRaw('store_id, COUNT(*) AS copies, SUM(bytes) AS bytes')->groupBy('store_id')->get()->keyBy('store_id'),
        ]);
    }
}
