<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Models\Run;

/** What a run that works by rows keeps at the server, and tells. */
final class RowSchema
{
    public static function of(Run $run): string
    {
        return "kaiseki_rows_{$run->label()}";
    }

    /** @return array<string, mixed> */
    public static function told(RowWork $work): array
    {
        return [
            'rows' => $work->sums(),
            'conflicts' => $work->conflicts,
            'impossible' => $work->impossible,
            'by_table' => array_map(fn (array $table): array => array_diff_key($table, ['columns' => true, 'n' => true]), $work->tables),
        ];
    }
}
