<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Blank\BlankWish;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Models\RecoveryRequest;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;
use Kaiseki\Core\Hypervisor\Bus;
use Kaiseki\Core\Hypervisor\Firmware;

/** What somebody says of the blank machine that another is to come onto. */
final class BlankRequest extends FormRequest
{
    public const DRILL = 'drill';

    public const OFF = 'off';

    public const STARTED = 'started';

    public const WAITS = 'waits';

    /** Minutes between two looks for a newer point, where nobody says how many. */
    private const FOLLOW = 15;

    public function authorize(): bool
    {
        return true; // the route asks the policy
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'do' => ['nullable', Rule::in(['read', 'order'])],
            'on' => ['nullable', 'integer'],
            'shown' => ['nullable', 'string', 'size:64'],
            'then' => ['nullable', Rule::in([self::DRILL, self::OFF, self::STARTED, self::WAITS])],
            'machine' => ['nullable', 'string', 'regex:/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D'],
            'storage' => ['nullable', 'string', 'max:100'],
            'network' => ['nullable', 'string', 'max:100'],
            'memory' => ['nullable', 'integer', 'min:1', 'max:67108864'],
            'cores' => ['nullable', 'integer', 'min:1', 'max:1024'],
            'firmware' => ['nullable', Rule::enum(Firmware::class)],
            'bus' => ['nullable', Rule::enum(Bus::class)],
            'asked' => ['nullable', 'required_with:answers', 'string', 'regex:~^/[\x21-\x7e]{0,200}$~D'],
            'answers' => ['nullable', 'required_with:asked', 'string', 'max:2000'],
            'follow' => ['nullable', 'integer', 'min:1', 'max:100000'],
            'renew_id' => ['nullable', 'boolean'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return [
            'machine.regex' => 'The name of a machine has letters, digits, dots, dashes and underscores.',
            'memory.*' => 'Memory is a number of MiB.',
            'follow.*' => 'It is looked for newer points every so many minutes: a number from 1 on.',
            'cores.*' => 'Cores are a number from 1 on.',
            'asked.*' => 'What it is asked for is the path of a page: /PATH, with files beside it that must be in the answer.',
            'answers.*' => 'Name the files whose content must be in the answer, with the page that it is asked for.',
            '*' => 'Choose one of those that are offered.',
        ];
    }

    public function wish(RecoveryRequest $request): BlankWish
    {
        $said = fn (string $what): string => $this->string($what)->trim()->value();
        $number = fn (string $what): ?int => $this->filled($what) ? $this->integer($what) : null;
        $files = array_values(array_filter(preg_split('/\s+/', $said('answers')) ?: []));

        return new BlankWish(
            $said('machine'),
            $said('storage'),
            $said('network'),
            $number('memory'),
            $number('cores'),
            Firmware::tryFrom($said('firmware')),
            Bus::tryFrom($said('bus')) ?? Bus::Virtio,
            $this->isDrill(),
            in_array($said('then'), [self::STARTED, self::WAITS], true),
            $files === [] ? null : new Answer($said('asked'), $files),
            copies: $request->copyRule(),
            renewsId: $this->boolean('renew_id'),
            follow: $said('then') === self::WAITS ? $number('follow') ?? self::FOLLOW : null,
        );
    }

    /** What is chosen where nothing was: it takes nothing from anybody. */
    private function isDrill(): bool
    {
        return ! in_array($this->string('then')->value(), [self::OFF, self::STARTED, self::WAITS], true);
    }
}
