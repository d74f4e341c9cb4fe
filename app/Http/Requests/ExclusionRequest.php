<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class ExclusionRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'do' => ['required', Rule::in(['add', 'end'])],
            'pattern' => ['required', 'string', 'max:500'],
            'because' => ['nullable', 'required_if:do,add', 'string', 'max:200'],
        ];
    }
}
