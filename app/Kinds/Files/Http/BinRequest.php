<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use Illuminate\Foundation\Http\FormRequest;

final class BinRequest extends FormRequest
{
    /** @return array<string, list<string>> */
    public function rules(): array
    {
        return ['file' => ['required', 'string', 'max:20000']];
    }
}
