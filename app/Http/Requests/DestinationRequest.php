<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;
use Kaiseki\Core\Files\ConflictRule;

final class DestinationRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'destination' => ['required', Rule::in(['new-folder', 'own-place', 'folder'])],
            'folder' => ['nullable', 'required_if:destination,folder', 'string', 'max:1000'],
            'conflict' => ['required', Rule::in(array_column(ConflictRule::cases(), 'value'))],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['folder.required_if' => 'Name the folder it goes to.'];
    }
}
