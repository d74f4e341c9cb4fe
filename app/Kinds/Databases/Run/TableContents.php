<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

/** What a table held when it was counted. */
final readonly class TableContents
{
    public function __construct(
        public int $rows,
        /** As CHECKSUM TABLE gives it; null where it says nothing: of tables with a history, of a dump that rounds. */
        public ?string $checksum,
    ) {
    }

    /** How it differs from what it should be, in words; null if it does not. Checksums count where both are known. */
    public function unlike(self $wanted): ?string
    {
        $isOther = $this->checksum !== null && $wanted->checksum !== null && $this->checksum !== $wanted->checksum;
        if ($this->rows === $wanted->rows && ! $isOther) {
            return null;
        }

        return "$this->rows rows, wanted $wanted->rows".($this->rows === $wanted->rows ? ', with another checksum' : '');
    }

    /**
     * @param  array<string, self>  $contents
     * @return array<string, array{rows: int, checksum: string|null}> by the same names, as records and outcomes have it
     */
    public static function kept(array $contents): array
    {
        return array_map(fn (self $of): array => ['rows' => $of->rows, 'checksum' => $of->checksum], $contents);
    }

    /**
     * @param  array<string, array<string, array{rows: int, checksum?: string|null}>>  $kept  schema => table => as kept
     * @return array<string, array<string, self>>
     */
    public static function ofSchemas(array $kept): array
    {
        return array_map(
            fn (array $tables): array => array_map(fn (array $of): self => new self($of['rows'], $of['checksum'] ?? null), $tables),
            $kept,
        );
    }
}
