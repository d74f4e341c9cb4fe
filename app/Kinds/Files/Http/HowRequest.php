<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class HowRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return ['layout' => ['required', Rule::in(['tree', 'flat'])], 'comes' => ['nullable', Rule::in(['things', 'permissions'])]];
    }
}
