<?php

declare(strict_types=1);

namespace App\Http\Requests;

use App\Models\Copy;
use App\Models\RecoveryRequest;
use App\Models\Right;
use App\Models\Store;
use App\Models\User;
use App\Rights\PersonRights;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class CopiesRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return ['from' => ['array'], 'from.*' => [Rule::in(['best', 'use', 'avoid'])]];
    }

    /**
     * @param  'use'|'avoid'  $which
     * @return list<string> names of stores
     */
    public function stores(string $which): array
    {
        $chosen = array_keys(array_filter((array) $this->input('from', []), fn (mixed $choice): bool => $choice === $which));

        $user = $this->user();
        assert($user instanceof User);

        $may = $which === 'use' ? PersonRights::of($user)->stores(Right::Read) : $this->holding();

        return $may->whereIn('id', array_map(intval(...), $chosen))->orderBy('name')->pluck('name')->all();
    }

    /**
     * To leave a store alone needs no right on it.
     *
     * @return Builder<Store> those that hold copies of what the request is about
     */
    private function holding(): Builder
    {
        $request = $this->route('recoveryRequest');
        assert($request instanceof RecoveryRequest);

        return Store::query()->whereIn('id', Copy::query()->where('workload_id', $request->workload_id)->select('store_id'));
    }
}
