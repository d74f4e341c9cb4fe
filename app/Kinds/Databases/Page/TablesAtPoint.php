<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Page;

use App\Kinds\Databases\Intake\DumpFacts;
use App\Kinds\Databases\Order\DatabaseSheet;
use App\Kinds\Databases\Order\Reach;
use Kaiseki\Core\Database\DumpSection;

/** The schemas and tables at a point, as the dump and the row events tell, beside the live ones as they were counted last. */
final class TablesAtPoint
{
    /** @var list<TableAtPoint> */
    public readonly array $tables;

    public function __construct(DatabaseSheet $sheet)
    {
        $tables = [];
        $live = $sheet->look()?->found()['live'] ?? [];
        foreach ($sheet->reaches as $reach) {
            $counted = DumpFacts::ofSet($reach->dump)->counted;
            $moved = self::moved($sheet, $reach);
            $bytes = self::bytes($reach);
            foreach (DumpFacts::sections($reach->dump) as $section) {
                if ($section->kind !== DumpSection::TABLE || ! in_array($section->schema, $reach->schemas, true)) {
                    continue;
                }
                $key = "{$section->schema}.{$section->name}";
                $rows = ($counted[$section->schema][$section->name] ?? null)?->rows;
                [$changes, $more, $isSure] = $moved[$key] ?? [0, 0, true];
                $rows = $rows === null || ! $isSure ? null : $rows + $more;
                $tables[$key] = new TableAtPoint(
                    $section->schema,
                    $section->name,
                    $rows,
                    $bytes[$key] ?? 0,
                    $changes,
                    $live[$key] ?? null,
                );
            }
        }
        $this->tables = array_values($tables);
    }

    /** @return array<string, int> SCHEMA.TABLE => bytes of its rows in the dump */
    private static function bytes(Reach $reach): array
    {
        $bytes = [];
        foreach (DumpFacts::sections($reach->dump) as $section) {
            if ($section->kind === DumpSection::DATA) {
                $key = "{$section->schema}.{$section->name}";
                $bytes[$key] = ($bytes[$key] ?? 0) + $section->bytes;
            }
        }

        return $bytes;
    }

    /** @return array<string, array{int, int, bool}> SCHEMA.TABLE => changes, rows more, whether they can be counted */
    private static function moved(DatabaseSheet $sheet, Reach $reach): array
    {
        $moved = [];
        if ($reach->from === null || $reach->until === null) {
            return $moved;
        }
        $logged = $sheet->points->transactions->all(null, null, null, null, array_map(fn ($log): string => $log->file, $reach->logs));
        foreach ($logged as $transaction) {
            if ($reach->from->isAfter($transaction->begins()) || $transaction->ends()->isAfter($reach->until)) {
                continue;
            }
            foreach ($transaction->tables as $table) {
                $of = $moved[$table->name()] ?? [0, 0, true];
                $moved[$table->name()] = [
                    $of[0] + 1,
                    $of[1] + $table->inserted - $table->deleted,
                    $of[2] && ! $transaction->isDefinition && $table->rows() > 0,
                ];
            }
        }

        return $moved;
    }
}
