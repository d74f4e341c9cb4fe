<?php

declare(strict_types=1);

namespace App\Http\Requests;

use App\Models\User;
use App\View\AgentsView;
use Illuminate\Contracts\Validation\ValidationRule;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/** A machine that is to have an agent. */
final class AgentRequest extends FormRequest
{
    protected $redirect = '/agents';

    /** @return array<string, list<ValidationRule|string|\Stringable>> */
    public function rules(): array
    {
        $user = $this->user();
        assert($user instanceof User);
        $isAny = $user->seesAllGroups();

        return [
            'name' => ['required', 'string', 'max:100'],
            'desk' => ['required', 'string', 'max:210'],
            'group' => $isAny ? ['nullable', 'string', 'max:60'] : ['required', 'string', Rule::in((new AgentsView($user))->groups())],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return [
            'name.required' => 'Say what the machine is called.',
            'desk.required' => 'Say where that machine reaches this desk, as HOST:PORT.',
            'group.in' => 'That group is none of yours.',
            'group.required' => 'Say to which of your groups it belongs.',
        ];
    }
}
