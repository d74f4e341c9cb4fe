<?php

declare(strict_types=1);

namespace App\Http\Requests;

use App\Models\Right;
use App\Models\Role;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class RightRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'group' => ['required', 'string', 'max:60'],
            'role' => ['required', Rule::enum(Role::class)->only(Role::withRights())],
            'may' => ['array'],
            'may.*' => [Rule::enum(Right::class)],
            'do' => ['required', Rule::in(['give', 'take'])],
        ];
    }

    public function group(): string
    {
        return trim($this->string('group')->value());
    }

    public function role(): Role
    {
        return Role::from($this->string('role')->value());
    }

    /** @return list<Right>|null null: the group has nothing to do with it any more */
    public function rights(): ?array
    {
        return $this->string('do')->value() === 'take'
            ? null
            : array_values(array_map(fn (string $right): Right => Right::from($right), (array) $this->input('may', [])));
    }
}
