<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

final class ScheduleRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'times' => ['required', 'string', 'max:1000'],
            'store' => ['required', 'integer', 'exists:stores,id'],
            'zone' => ['required', 'string', 'max:64'],
            'hours' => ['nullable', 'string', 'max:11'],
            'copy_to' => ['nullable', 'array'],
            'copy_to.*' => ['integer'],
            'copy_from' => ['nullable', 'string', 'max:5'],
            'on' => ['nullable', 'boolean'],
        ];
    }

    /** @return list<string> one to a line */
    public function times(): array
    {
        return array_values(
            array_filter(array_map(trim(...), explode("\n", $this->string('times')->value())), fn (string $line): bool => $line !== ''),
        );
    }

    public function filledText(string $name): ?string
    {
        $text = trim($this->string($name)->value());

        return $text === '' ? null : $text;
    }
}
