<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;
use Kaiseki\Core\Chain\Demands;

final class PromiseRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        return [
            'rpo' => ['nullable', 'string', 'regex:/^\d{1,6}\s*[smhd]?$/D'],
            'rto' => ['nullable', 'string', 'regex:/^\d{1,6}\s*[smhd]?$/D'],
            'outside' => ['nullable', 'boolean'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return [
            'rpo.*' => 'Write how old the newest point may be as 30m, 26h or 7d.',
            'rto.*' => 'Write how long a whole restore may take as 30m, 4h or 2d.',
        ];
    }

    public function seconds(string $name): ?int
    {
        $text = trim($this->string($name)->value());

        return $text === '' || (int) $text === 0 ? null : Demands::span($text);
    }
}
