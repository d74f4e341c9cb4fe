<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Kinds\Databases\Order\DatabaseSheet;
use App\Kinds\Look;
use App\Models\RecoveryRequest;
use Closure;

/** Looks at rows of one table as they were at the point, each beside the live one: the table is brought up on a throw-away server. */
final readonly class TableLook implements Look
{
    private DatabaseSheet $sheet;

    public string $table;

    public string $search;

    /** @param  array<string, string>  $asked  table: with its schema; key: what the first column of its key begins with */
    public function __construct(RecoveryRequest $request, array $asked, ?DatabaseSheet $sheet = null)
    {
        $this->sheet = $sheet ?? new DatabaseSheet($request);
        $this->table = $asked['table'] ?? '';
        $this->search = $asked['key'] ?? '';
    }

    public function title(): string
    {
        return "the rows of {$this->table}";
    }

    public function fingerprint(): string
    {
        return hash('sha256', implode("\0", ['table', $this->table, $this->search, $this->sheet->fingerprint()]));
    }

    public function take(Closure $told): array
    {
        return TableRows::by(new TableRead($this->sheet, $this->table, $this->search, $told))->toArray();
    }
}
