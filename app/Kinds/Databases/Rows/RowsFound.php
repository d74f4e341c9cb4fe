<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

/** What a restore by rows would do, as it was found. */
final readonly class RowsFound
{
    /**
     * @param  list<array{schema: string, table: string, insert: int, set_back: int, remove: int, same: int, left: int,
     *     conflicts: int}>  $tables
     * @param  list<array{table: string, key: array<string, string|null>, because: string}>  $conflicts  the first of them
     * @param  list<ImpossibleTable>  $impossible
     * @param  list<string>  $remarks
     * @param  string|null  $problem  why it could not be found out
     */
    private function __construct(
        public array $tables,
        public array $conflicts,
        public array $impossible,
        public array $remarks,
        public ?string $problem,
    ) {
    }

    public static function by(RowWork $work): self
    {
        $tables = array_map(fn (RowTable $table): array => $table->told(), $work->tables);

        return new self($tables, array_map(get_object_vars(...), $work->conflicts), $work->impossible, $work->remarks, null);
    }

    public static function problem(string $why): self
    {
        return new self([], [], [], [], $why);
    }

    /** @param  array<string, mixed>  $found  as toArray() gives it */
    public static function fromArray(array $found): self
    {
        return new self(
            (array) ($found['tables'] ?? []),
            (array) ($found['conflicts'] ?? []),
            array_map(
                fn (array $one): ImpossibleTable => new ImpossibleTable($one['table'], $one['because']),
                array_values((array) ($found['impossible'] ?? [])),
            ),
            (array) ($found['remarks'] ?? []),
            $found['problem'] ?? null,
        );
    }

    /** @return array<string, mixed> in UTF-8 */
    public function toArray(): array
    {
        $json = json_encode(get_object_vars($this), JSON_INVALID_UTF8_SUBSTITUTE | JSON_THROW_ON_ERROR);

        return json_decode($json, true, 512, JSON_THROW_ON_ERROR);
    }
}
