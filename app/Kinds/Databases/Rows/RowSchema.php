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
            'rows' => $work->sums()->toArray(),
            'conflicts' => array_map(get_object_vars(...), $work->conflicts),
            'impossible' => array_map(get_object_vars(...), $work->impossible),
            'by_table' => array_map(fn (RowTable $table): array => $table->told(), $work->tables),
        ];
    }
}
