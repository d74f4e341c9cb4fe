<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use Illuminate\Foundation\Http\FormRequest;

final class PointRequest extends FormRequest
{
    /** @return array<string, list<string>> */
    public function rules(): array
    {
        return [
            'set' => ['nullable', 'integer'],
            'view' => ['nullable', 'string', 'regex:/^(&(days|mid|levels|state)=[a-z0-9.,-]{0,60}){0,4}$/D'],
        ];
    }
}
