<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Standing\SettleWish;
use Illuminate\Foundation\Http\FormRequest;

/** What somebody says of how a machine that stands is settled. */
final class SettleRequest extends FormRequest
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
            'limit' => ['nullable', 'integer', 'min:1', 'max:1000000'],
            'at' => ['nullable', 'date_format:Y-m-d\TH:i'],
            'storages' => ['nullable', 'array', 'max:100'],
            'storages.*' => ['nullable', 'string', 'max:100'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['limit.*' => 'The speed is a number of megabytes a second from 1 on.', 'at.*' => 'Say when it begins as a day and a time.'];
    }

    public function wish(): SettleWish
    {
        $storages = array_filter((array) $this->input('storages', []), is_string(...));

        return new SettleWish($this->filled('limit') ? $this->integer('limit') : null, array_filter($storages));
    }
}
