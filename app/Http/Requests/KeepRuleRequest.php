<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

final class KeepRuleRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'store' => ['nullable', 'integer', 'exists:stores,id'],
            'rule' => ['nullable', 'string', 'max:200'],
            'every_night' => ['nullable', 'boolean'],
        ];
    }
}
