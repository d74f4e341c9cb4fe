<?php

declare(strict_types=1);

namespace App\Http\Requests;

use App\Models\Approval;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class DecisionRequest extends FormRequest
{
    public function authorize(): bool
    {
        $approval = $this->route('approval');

        return $approval instanceof Approval &&
            $this->user()?->can($this->string('do')->value() === 'withdraw' ? 'withdraw' : 'decide', $approval) === true;
    }

    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'do' => ['required', Rule::in(['approve', 'refuse', 'review', 'withdraw'])],
            'words' => ['nullable', 'required_if:do,refuse,review', 'string', 'max:1000'],
            'seen' => ['nullable', 'required_if:do,approve', 'string', 'size:64'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['seen.*' => 'Say yes on the page that shows it.', 'words.required_if' => 'Say in a few words why, or what you found.'];
    }
}
