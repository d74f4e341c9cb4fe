<?php

declare(strict_types=1);

namespace App\Http\Requests;

use App\Models\Duty;
use App\Models\Role;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class PersonRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'role' => ['required', Rule::enum(Role::class)],
            'sees' => ['required', Rule::in(['all', 'some'])],
            'groups' => ['array', 'max:100'],
            'groups.*' => ['string', 'max:60'],
            'duties' => ['array', 'max:20'],
            'duties.*' => [Rule::enum(Duty::class)],
            'locked' => ['nullable', 'boolean'],
        ];
    }

    public function role(): Role
    {
        return Role::from($this->string('role')->value());
    }

    /** @return list<string> see Duty */
    public function duties(): array
    {
        return array_values(array_unique(array_map(strval(...), (array) $this->input('duties', []))));
    }

    /** @return list<string>|null null for all */
    public function groups(): ?array
    {
        return $this->string('sees')->value() === 'all'
            ? null
            : array_values(array_unique(array_map(strval(...), (array) $this->input('groups', []))));
    }
}
