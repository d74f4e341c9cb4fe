<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Kinds\Databases\Run\Column;
use Kaiseki\Core\Database\Identifier;

/** Terms of the statements that compare rows. */
final class RowTerms
{
    /** @param  list<string>  $columns */
    public static function list(array $columns, string $of = ''): string
    {
        return implode(', ', array_map(fn (string $column): string => ($of === '' ? '' : "$of.").Identifier::quoted($column), $columns));
    }

    /** @param  list<string>  $columns */
    public static function on(array $columns, string $a, string $b): string
    {
        return implode(
            ' AND ',
            array_map(fn (string $column): string => "$a.".Identifier::quoted($column)." = $b.".Identifier::quoted($column), $columns),
        );
    }

    /**
     * Whether two rows are the same, byte for byte; what is generated follows from the rest.
     *
     * @param  list<Column>  $columns
     */
    public static function same(array $columns, string $a, string $b): string
    {
        return implode(
            ' AND ',
            array_map(function (Column $column) use ($a, $b): string {
                $name = Identifier::quoted($column->name);

                return $column->text ? "BINARY $a.$name <=> BINARY $b.$name" : "$a.$name <=> $b.$name";
            }, self::own($columns)),
        );
    }

    /**
     * Those that are not generated.
     *
     * @param  list<Column>  $columns
     * @return list<Column>
     */
    public static function own(array $columns): array
    {
        return array_values(array_filter($columns, fn (Column $column): bool => ! $column->generated));
    }
}
