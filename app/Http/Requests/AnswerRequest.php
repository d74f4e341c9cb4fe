<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class AnswerRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return ['answer' => ['required', Rule::in(['yes', 'no'])], 'words' => ['nullable', 'required_if:answer,no', 'string', 'max:1000']];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['words.required_if' => 'Say what is not right, so that it can be put right.'];
    }
}
