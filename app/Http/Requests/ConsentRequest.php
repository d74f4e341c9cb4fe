<?php

declare(strict_types=1);

namespace App\Http\Requests;

use App\Models\Consent;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class ConsentRequest extends FormRequest
{
    public function authorize(): bool
    {
        $consent = $this->route('consent');

        $ability = $this->input('do') === 'withdraw' ? 'withdraw' : 'decide';

        return $consent instanceof Consent && $this->user()?->can($ability, $consent) === true;
    }

    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'do' => ['required', Rule::in(['approve', 'refuse', 'withdraw'])],
            'words' => ['nullable', 'required_if:do,refuse', 'string', 'max:1000'],
            'seen' => ['nullable', 'required_if:do,approve', 'string', 'size:64'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['seen.*' => 'Say yes on the page that shows it.', 'words.required_if' => 'Say in a few words why.'];
    }
}
