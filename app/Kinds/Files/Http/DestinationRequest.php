<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use App\Kinds\Files\Order\Destination;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;
use Kaiseki\Core\Files\ConflictRule;

final class DestinationRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'destination' => ['required', Rule::in(Destination::KINDS)],
            'folder' => ['nullable', 'required_if:destination,folder,host', 'string', 'max:1000'],
            'host' => ['nullable', 'required_if:destination,host', 'integer', 'exists:hosts,id'],
            'rename' => ['nullable', 'string', 'max:255'],
            'rule_folder' => ['nullable', 'string', 'max:1000'],
            'rule' => ['nullable', Rule::in(array_column(ConflictRule::cases(), 'value'))],
            'drop_rule' => ['nullable', 'string', 'max:4000'],
            'conflict' => ['required', Rule::in(array_column(ConflictRule::cases(), 'value'))],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['folder.required_if' => 'Name the folder it goes to.', 'host.required_if' => 'Choose the host it goes to.'];
    }
}
