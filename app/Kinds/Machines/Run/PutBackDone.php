<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\LeftAsIs;

/** What came of putting back something at a hypervisor, in words for people. */
final class PutBackDone
{
    /** @var list<string> what the run had made, and is gone */
    public array $removed = [];

    /** @var list<string> what it had replaced, and is there again */
    public array $returned = [];

    /** @var list<LeftAsIs> */
    public array $left = [];

    public function leave(string $what, string $because): void
    {
        $this->left[] = new LeftAsIs($what, $because);
    }

    /** @return array{removed: int, returned: int, left: list<array<string, string>>, kept: list<never>} as a run keeps it */
    public function kept(): array
    {
        return [
            'removed' => count($this->removed),
            'returned' => count($this->returned),
            'left' => LeftAsIs::kept($this->left),
            'kept' => [],
        ];
    }

    /** @return list<string> a line for each */
    public function lines(): array
    {
        return [
            ...array_map(fn (string $what): string => "  there again: $what", $this->returned),
            ...array_map(fn (string $what): string => "  gone: $what", $this->removed),
            ...array_map(fn (LeftAsIs $left): string => "  {$left->told()}", $this->left),
        ];
    }
}
