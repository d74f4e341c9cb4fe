<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class SelectManyRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'do' => ['required', Rule::in(['paste', 'found', 'ticked', 'vanished', 'changed'])],
            'list' => ['nullable', 'required_if:do,paste', 'string', 'max:1000000'],
            'since' => ['nullable', 'date'],
            'paths' => ['nullable', 'array', 'max:1000'],
            'paths.*' => ['string', 'max:20000'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['list.required_if' => 'Paste the paths first, one to a line.', 'since.date' => 'Write the moment as 2026-11-12 19:30.'];
    }
}
