<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Kinds\Databases\Databases;
use App\Models\RecoveryRequest;

/** What was said of an order of a database, as it is kept with its request: the fields are those that DatabaseInput reads. */
final readonly class DatabaseSaid
{
    private const VERSION = 1;

    /**
     * @param  array<string, mixed>  $choice  at, before, through or position; server, schema, in-place, tables, rows-of, reverse, skip,
     *     query ...
     */
    public function __construct(public array $choice)
    {
    }

    public static function of(RecoveryRequest $request): self
    {
        return new self($request->saidOf(Databases::NAME)['choice'] ?? []);
    }

    public function keepOn(RecoveryRequest $request): RecoveryRequest
    {
        $settled = array_filter($this->choice, fn (mixed $value): bool => $value !== null && $value !== [] && $value !== false);

        return $request->say(Databases::NAME, self::VERSION, ['choice' => $settled]);
    }
}
