<?php

declare(strict_types=1);

namespace Kaiseki\Core\Content;

/** In which cells two tables differ. Rows are matched by their whole text first, then in turn where some were replaced. */
final readonly class TableDifference
{
    private function __construct(
        /** @var list<DifferentRow> rows that are not the same */
        public array $rows,
        /** @var list<string> the first row of the new table, which mostly names the columns */
        public array $head,
        public int $cells,
    ) {
    }

    /**
     * @param  list<list<string>>  $old
     * @param  list<list<string>>  $new
     */
    public static function between(array $old, array $new): self
    {
        if ($old === [] || $new === []) {
            $added = array_map(fn (int $i): DifferentRow => new DifferentRow(null, $i + 1, $new[$i], []), array_keys($new));

            return new self(
                [...self::gone(array_map(fn (int $i): int => $i + 1, array_keys($old)), $old), ...$added],
                $new[0] ?? ($old[0] ?? []),
                0,
            );
        }
        $rows = $removed = [];
        $cells = $shift = $shiftBefore = 0;
        foreach (TextDifference::between(self::asText($old), self::asText($new), 0)->lines as $line) {
            if ($line->left !== null) {
                if ($removed !== [] && $line->left !== end($removed) + 1) {
                    array_push($rows, ...self::gone($removed, $old));
                    $removed = [];
                }
                $shiftBefore = $removed === [] ? $shift : $shiftBefore;
                $removed[] = $line->left;
                $shift--;

                continue;
            }
            $right = (int) $line->right;
            $shift++;
            // In its turn, where rows were taken out at the same place.
            $left = $removed !== [] && $right - $removed[0] === $shiftBefore ? array_shift($removed) : null;
            if ($left === null) {
                array_push($rows, ...self::gone($removed, $old));
                $removed = [];
            }
            $changed = $left === null ? [] : self::changed($old[$left - 1], $new[$right - 1]);
            $cells += count($changed);
            $rows[] = new DifferentRow($left, $right, $new[$right - 1], $changed);
        }
        array_push($rows, ...self::gone($removed, $old));

        return new self($rows, $new[0] ?? ($old[0] ?? []), $cells);
    }

    /**
     * @param  list<int>  $numbers
     * @param  list<list<string>>  $old
     * @return list<DifferentRow>
     */
    private static function gone(array $numbers, array $old): array
    {
        return array_map(fn (int $number): DifferentRow => new DifferentRow($number, null, $old[$number - 1], []), $numbers);
    }

    /** @param  list<list<string>>  $rows */
    private static function asText(array $rows): string
    {
        return implode(
            "\n",
            array_map(fn (array $row): string => json_encode($row, JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE), $rows),
        );
    }

    /**
     * @param  list<string>  $old
     * @param  list<string>  $new
     * @return array<int, string> column => what stood there before
     */
    private static function changed(array $old, array $new): array
    {
        $changed = [];
        for ($column = 0; $column < max(count($old), count($new)); $column++) {
            if (($old[$column] ?? '') !== ($new[$column] ?? '')) {
                $changed[$column] = $old[$column] ?? '';
            }
        }

        return $changed;
    }
}
