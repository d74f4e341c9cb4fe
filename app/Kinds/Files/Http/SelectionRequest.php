<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class SelectionRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'path' => ['present', 'nullable', 'string', 'max:20000'],
            'folder' => ['nullable', 'string', 'max:20000', 'regex:/^[A-Za-z0-9%._~\/-]*$/'],
            'page' => ['nullable', 'integer', 'min:0'],
            'do' => ['nullable', Rule::in(['turn', 'only', 'clear', 'with-record'])],
        ];
    }
}
