<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Machine\ImageFormat;

/** One part of an order for a machine, as it is settled on the worksheet. */
final class MachineChoiceRequest extends FormRequest
{
    public function authorize(): bool
    {
        return true; // the route asks the policy
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'settle' => ['required', Rule::in(['point', 'disks', 'files', 'where', 'how'])],
            'point' => ['nullable', 'integer'],
            'view' => ['nullable', 'string', 'regex:/^(&(days|mid|levels|state)=[a-z0-9.,-]{0,60}){0,4}$/D'],
            'disks' => ['nullable', 'required_if:settle,disks', 'array', 'max:64'],
            'disks.*' => ['string', 'max:60'],
            'take' => ['nullable', 'string', 'max:12000'],
            'drop' => ['nullable', 'string', 'max:12000'],
            'folder_shown' => ['nullable', 'string', 'max:12000'],
            'conflict' => ['nullable', Rule::enum(ConflictRule::class)],
            'part' => ['nullable', 'boolean'],
            'format' => ['nullable', 'required_if:settle,how', Rule::enum(ImageFormat::class)],
            'to' => ['nullable', 'required_if:settle,where', Rule::in(['new-folder', 'host'])],
            'host' => ['nullable', 'required_if:to,host', 'integer', 'exists:hosts,id'],
            'folder' => ['nullable', 'required_if:to,host', 'string', 'max:1000'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return [
            'disks.required_if' => 'Pick a disk at least.',
            'folder.required_if' => 'Name the folder it goes to.',
            'host.required_if' => 'Choose the host it goes to.',
        ];
    }
}
