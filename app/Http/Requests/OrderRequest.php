<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

final class OrderRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'order' => ['required', 'string', 'max:64'],
            'set_first' => ['nullable', 'boolean'],
            'reason' => ['nullable', 'string', 'min:10', 'max:1000'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['reason.min' => 'Say in a sentence why it cannot wait: somebody will review it.'];
    }
}
