<?php

declare(strict_types=1);

namespace App\Kinds\Files\Page;

use App\Models\Run;
use App\Words;

/** What the page of a run of files shows of what came of it. */
final readonly class FilesRunView
{
    public function __construct(public Run $run)
    {
    }

    /** @return array<string, mixed> */
    public function outcome(): array
    {
        return $this->run->outcome ?? [];
    }

    /** Whether it gave back permissions alone. */
    public function isPermissions(): bool
    {
        return (bool) ($this->run->plan['permissions_only'] ?? false);
    }

    public function came(): string
    {
        $outcome = $this->outcome();

        return $this->isPermissions()
            ? 'the permissions of '.Words::count($outcome['replaced'] ?? 0, 'thing')
            : Words::count($outcome['files'] ?? 0, 'file').', '.Words::size($outcome['bytes'] ?? 0);
    }

    public function cameBack(): string
    {
        $back = $this->outcome()['put_back'] ?? [];

        return $this->isPermissions()
            ? Words::count($back['returned'] ?? 0, 'thing').' got back the permissions of before.'
            : Words::count($back['removed'] ?? 0, 'thing').' that it had placed went, '.
                number_format($back['returned'] ?? 0).' that it had replaced came back.';
    }

    /** @return list<array<string, mixed>> what is not there, or not as it was, the first of it */
    public function wrong(): array
    {
        $lost = array_filter($this->outcome()['left_out'], fn (array $row): bool => $row['loss']);

        return array_slice([...$this->outcome()['differences'], ...array_values($lost)], 0, 200);
    }

    /** @return list<array<string, mixed>> what was left by design or by the rule */
    public function left(): array
    {
        return array_values(array_filter($this->outcome()['left_out'], fn (array $row): bool => ! $row['loss']));
    }
}
