<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

final class CheckPlanRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'mb' => ['nullable', 'numeric', 'min:0', 'max:1000000000'],
            'from' => ['required', 'string', 'max:5'],
            'until' => ['required', 'string', 'max:5'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['mb.*' => 'Write how many MB are to be read a night as a number; 0 or nothing ends the plan.'];
    }
}
