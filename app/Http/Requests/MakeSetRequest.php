<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class MakeSetRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return ['level' => ['required', Rule::in(['full', 'diff', 'incr'])], 'store' => ['required', 'integer', 'exists:stores,id']];
    }
}
