<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Home\HomeWish;
use Illuminate\Foundation\Http\FormRequest;

/** What somebody says of how a machine that stands in goes home. */
final class HomeRequest extends FormRequest
{
    use SaysWhen;

    public function authorize(): bool
    {
        return true; // the route asks the policy
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'at' => ['nullable', 'date_format:Y-m-d\TH:i'],
            'on' => ['nullable', 'string', 'max:100'],
            'storage' => ['nullable', 'string', 'max:100'],
            'network' => ['nullable', 'string', 'max:100'],
            'set_aside' => ['nullable', 'boolean'],
            'address' => ['nullable', 'ip'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return [
            'at.*' => 'Say when it begins as a day and a time.',
            'address.*' => 'The address is an IPv4 or an IPv6 address.',
            '*' => 'Choose one of those that are offered.',
        ];
    }

    public function wish(): HomeWish
    {
        $said = fn (string $what): string => $this->string($what)->value();

        return new HomeWish($said('on'), $said('storage'), $said('network'), $this->boolean('set_aside'), $said('address'));
    }
}
