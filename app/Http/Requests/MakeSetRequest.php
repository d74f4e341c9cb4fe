<?php

declare(strict_types=1);

namespace App\Http\Requests;

use App\Kinds\Kinds;
use App\Models\Workload;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

final class MakeSetRequest extends FormRequest
{
    /** @return array<string, list<mixed>> */
    public function rules(): array
    {
        $workload = $this->route('workload');

        return [
            'level' => [
                'required',
                Rule::in($workload instanceof Workload ? array_keys(Kinds::of($workload)->source($workload)->levels()) : []),
            ],
            'store' => ['required', 'integer', 'exists:stores,id'],
        ];
    }
}
