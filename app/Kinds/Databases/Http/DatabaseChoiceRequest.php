<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Http;

use App\Kinds\Databases\Order\DatabaseOrder;
use Illuminate\Foundation\Http\FormRequest;
use InvalidArgumentException;
use Kaiseki\Core\Database\GtidState;
use Kaiseki\Core\Database\Identifier;

/** One part of an order for a database, as it is settled on the worksheet. */
final class DatabaseChoiceRequest extends FormRequest
{
    public function authorize(): bool
    {
        return true; // the route asks the policy
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        $gtid = function (string $attribute, mixed $value, callable $fail): void {
            try {
                GtidState::one((string) $value);
            } catch (InvalidArgumentException $wrong) {
                $fail($wrong->getMessage());
            }
        };

        return [
            'set' => 'required|in:stop,way,tables,where,question',
            'stop' => 'required_if:set,stop|in:before,through,wanted',
            'gtid' => ['nullable', 'required_if:stop,before,through', $gtid],
            'way' => 'required_if:set,way|in:beside,in-place,tables,rows,reverse,skip',
            'tables' => 'array|max:500', 'tables.*' => 'string|max:130',
            'server' => 'nullable|exists:database_servers,name',
            'schema' => ['nullable', function (string $attribute, mixed $value, callable $fail): void {
                try {
                    Identifier::given((string) $value);
                } catch (InvalidArgumentException $wrong) {
                    $fail($wrong->getMessage());
                }
            }],
            'query' => ['nullable', 'string', 'max:2000', function (string $attribute, mixed $value, callable $fail): void {
                try {
                    DatabaseOrder::question((string) $value);
                } catch (InvalidArgumentException $wrong) {
                    $fail($wrong->getMessage());
                }
            }],
            'take' => 'nullable|boolean',
        ];
    }
}
