<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

final class PointRequest extends FormRequest
{
    /** @return array<string, list<string>> */
    public function rules(): array
    {
        return ['set' => ['nullable', 'integer'], 'days' => ['nullable', 'integer', 'min:3', 'max:2200']];
    }
}
