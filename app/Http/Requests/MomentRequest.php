<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

final class MomentRequest extends FormRequest
{
    /** @return array<string, list<string>> */
    public function rules(): array
    {
        return ['wanted_at' => ['required', 'date', 'after:1970-01-02', 'before:2200-01-01']];
    }
}
