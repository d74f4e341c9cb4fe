<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\PlacementWish;
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
            'settle' => ['required', Rule::in(['point', 'disks', 'files', 'where', 'place', 'how', 'way'])],
            'point' => ['nullable', 'integer'],
            'view' => ['nullable', 'string', 'regex:/^(&(days|mid|levels|state)=[a-z0-9.,-]{0,60}){0,4}$/D'],
            'disks' => ['nullable', 'required_if:settle,disks', 'array', 'max:64'],
            'disks.*' => ['string', 'max:60'],
            'version' => ['nullable', 'string', 'max:12000', 'regex:/^\d{1,18}:./'],
            'take' => ['nullable', 'string', 'max:12000'],
            'drop' => ['nullable', 'string', 'max:12000'],
            'folder_shown' => ['nullable', 'string', 'max:12000'],
            'conflict' => ['nullable', Rule::enum(ConflictRule::class)],
            'part' => ['nullable', 'boolean'],
            'format' => ['nullable', 'required_if:settle,how', Rule::enum(ImageFormat::class)],
            'to' => ['nullable', 'required_if:settle,where', Rule::in(['new-folder', 'host', 'hypervisor', 'machine'])],
            'host' => ['nullable', 'required_if:to,host', 'integer', 'exists:hosts,id'],
            'folder' => ['nullable', 'required_if:to,host', 'string', 'max:1000'],
            'into' => ['nullable', 'required_if:to,machine', 'string', 'regex:/^\d{1,18}:[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D'],
            'inside' => ['nullable', 'string', 'max:1000'],
            'hypervisor' => ['nullable', 'required_if:to,hypervisor', 'integer', 'exists:hypervisors,id'],
            'way' => ['nullable', 'required_if:settle,way', Rule::enum(MachineWay::class)],
            'machine' => ['nullable', 'string', 'regex:/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D'],
            'storage' => ['nullable', 'string', 'max:100'],
            'network' => ['nullable', 'string', 'max:100'],
            'memory' => ['nullable', 'integer', 'min:1', 'max:67108864'],
            'limit' => ['nullable', 'integer', 'min:1', 'max:1000000'],
            'follow' => ['nullable', 'integer', 'min:1', 'max:100000'],
            'until' => ['nullable', 'date_format:Y-m-d\TH:i'],
            'cores' => ['nullable', 'integer', 'min:1', 'max:1024'],
            'cards' => ['nullable', Rule::in(array_keys(PlacementWish::cardsInWords()))],
            'new_mac' => ['nullable', 'boolean'],
            'set_aside' => ['nullable', 'boolean'],
            'stop' => ['nullable', Rule::in(['shut-down', 'cut'])],
            'start' => ['nullable', 'boolean'],
            'annex' => ['nullable', 'boolean'],
            'joins' => ['nullable', 'integer'],
            'background' => ['nullable', 'boolean'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return [
            'disks.required_if' => 'Pick a disk at least.',
            'folder.required_if' => 'Name the folder it goes to.',
            'host.required_if' => 'Choose the host it goes to.',
            'into.*' => 'Choose the machine they go into.',
            'hypervisor.required_if' => 'Choose the hypervisor it goes to.',
            'machine.regex' => 'The name of a machine has letters, digits, dots, dashes and underscores.',
        ];
    }
}
