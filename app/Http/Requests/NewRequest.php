<?php

declare(strict_types=1);

namespace App\Http\Requests;

use App\Models\User;
use App\Models\Workload;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class NewRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        $user = $this->user();
        assert($user instanceof User);

        return [
            'summary' => ['required', 'string', 'max:300'],
            'reason' => ['required', 'string', 'max:5000'],
            'lost' => ['nullable', 'string', 'max:1000'],
            'workload' => ['nullable', 'integer', Rule::in(Workload::seenBy($user)->pluck('id')->all())],
            'requester' => ['nullable', 'integer', 'exists:users,id'],
            'wanted_at' => ['required', 'string', 'max:200', new SaidMoment($user->zone)],
            'noticed_at' => ['nullable', 'date'],
            'due_at' => ['required', 'date'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return [
            'summary.required' => 'Say in a line what is missing.',
            'reason.required' => 'Say why it is needed: the reason stays on record.',
            'wanted_at.required' => 'Say when it was last good.',
            'due_at.required' => 'Say when it is needed.',
        ];
    }
}
