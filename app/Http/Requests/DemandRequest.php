<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class DemandRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'demand' => ['required', Rule::in(['consistent', 'clear', 'checked', 'site', 'within'])],
            'within' => ['nullable', 'string', 'regex:/^\d{1,6}\s*[smhd]?$/D', 'not_regex:/^0+\s*[smhd]?$/D'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['within.*' => 'Write how old the point may be as 30m, 36h or 7d; leave it empty for any age.'];
    }
}
