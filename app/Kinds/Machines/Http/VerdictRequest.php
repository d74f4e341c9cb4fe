<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Scan\AnnexFinding;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/** What somebody says of a file that a scan found. */
final class VerdictRequest extends FormRequest
{
    public function authorize(): bool
    {
        return true; // the route asks the policy
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'verdict' => ['required', Rule::in([AnnexFinding::HARMLESS, AnnexFinding::BAD])],
            'why' => ['required', 'string', 'max:300'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['why.*' => 'Say why: it is listed with the verdict.'];
    }

    protected function getRedirectUrl(): string
    {
        return url()->previous().'#annex';
    }
}
