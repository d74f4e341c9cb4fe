<?php

declare(strict_types=1);

namespace App\Http\Requests;

use App\Models\User;
use Illuminate\Foundation\Http\FormRequest;

final class MomentRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        $user = $this->user();
        assert($user instanceof User);

        return ['wanted_at' => ['required', 'string', 'max:200', new SaidMoment($user->zone)]];
    }
}
