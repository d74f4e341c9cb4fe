<?php

declare(strict_types=1);

namespace App\Http\Requests;

use App\Models\User;
use App\People\TargetReach;
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

        return (new TargetReach($user))->stores()->whereIn('id', array_map(intval(...), $chosen))->orderBy('name')->pluck('name')->all();
    }
}
