<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Annex\AnnexChange;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/** What somebody wants to have done in a machine that is in an annex. */
final class InsideRequest extends FormRequest
{
    public function authorize(): bool
    {
        return true; // the route asks the policy
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'sort' => ['required', Rule::in([AnnexChange::RUN, AnnexChange::TYPE])],
            'what' => ['required', 'string', 'max:1000'],
            'why' => ['required', 'string', 'max:300'],
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return ['what.*' => 'Say what is done in it.', 'why.*' => 'Say why: it is listed with what was done.'];
    }

    protected function getRedirectUrl(): string
    {
        return url()->previous().'#annex';
    }

    public function sort(): string
    {
        return $this->string('sort')->value();
    }

    /** @return non-empty-list<string> a line for the machine's own shell, or one that is typed */
    public function what(): array
    {
        $what = $this->string('what')->value();

        return $this->sort() === AnnexChange::RUN ? ['sh', '-c', $what] : [$what];
    }
}
