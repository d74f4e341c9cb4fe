<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database\Internal;

use UnexpectedValueException;

/**
 * How long each row image of a table is. For every pattern of NULLs that occurs the steps are worked out once: bytes of
 * fixed length to skip, then a length of so many bytes, and so on; so a row costs as many steps as it has strings.
 * Sizes: MariaDB source, sql/log_event.cc (calc_field_size) and the knowledge base, "Table_map_event", "Rows_event".
 */
final class RowLayout
{
    public readonly string $schema;

    public readonly string $table;

    /** Schema, NUL, table. */
    public readonly string $name;

    /** @var list<array{int, int}> bytes of fixed length (0 for none), bytes of the length before it */
    private array $columns = [];

    /**
     * @var array<string, array<string, array{list<array{int, int}>, int}>> bitmap of columns in the image => NULL pattern => steps, fixed
     *     bytes after the last
     */
    private array $steps = [];

    /** @var array<string, list<int>> bitmap of columns in the image => their numbers */
    private array $present = [];

    /** @param  string  $map  body of a table map event */
    public function __construct(string $map)
    {
        $at = 8;
        [$this->schema, $at] = self::name($map, $at);
        [$this->table, $at] = self::name($map, $at);
        $this->name = "{$this->schema}\0{$this->table}";
        $count = self::packed($map, $at);
        $types = substr($map, $at, $count);
        $at += $count;
        self::packed($map, $at); // bytes of metadata
        if (strlen($types) !== $count) {
            throw new UnexpectedValueException('a table map is cut short');
        }
        for ($i = 0; $i < $count; $i++) {
            $this->columns[] = self::size(ord($types[$i]), $map, $at);
        }
    }

    /** @return array{string, int} */
    private static function name(string $map, int $at): array
    {
        $length = ord($map[$at] ?? "\0");

        return [substr($map, $at + 1, $length), $at + $length + 2];
    }

    /** A length-encoded integer (MariaDB knowledge base, "Protocol data types"). */
    public static function packed(string $bytes, int &$at): int
    {
        $first = ord($bytes[$at] ?? throw new UnexpectedValueException('an event is cut short'));
        $at++;
        if ($first < 251) {
            return $first;
        }
        $width = match ($first) {
            252 => 2,
            253 => 3,
            254 => 8,
            default => throw new UnexpectedValueException('a length in an event makes no sense'),
        };
        $value = self::little(substr($bytes, $at, $width));
        $at += $width;

        return $value;
    }

    public static function little(string $bytes): int
    {
        /** @var array{1: int} $value */
        $value = unpack('P', str_pad($bytes, 8, "\0"));

        return $value[1];
    }

    /** @return array{int, int} */
    private static function size(int $type, string $map, int &$at): array
    {
        $meta = match ($type) {
            4, 5, 17, 18, 19, 140, 245, 249, 250, 251, 252, 255 => 1,
            15, 16, 141, 246, 247, 248, 253, 254 => 2,
            default => 0,
        };
        $a = ord($map[$at] ?? "\0");
        $b = $meta === 2 ? ord($map[$at + 1] ?? "\0") : 0;
        $at += $meta;

        return match ($type) {
            1, 13 => [1, 0],
            2 => [2, 0],
            9, 10, 11, 14 => [3, 0],
            3, 7 => [4, 0],
            8, 12 => [8, 0],
            6 => [0, 0],
            4, 5 => [$a, 0],
            15, 141 => [0, $a + 256 * $b < 256 ? 1 : 2],
            16 => [$b + ($a > 0 ? 1 : 0), 0],
            17 => [4 + intdiv($a + 1, 2), 0],
            18 => [5 + intdiv($a + 1, 2), 0],
            19 => [3 + intdiv($a + 1, 2), 0],
            246 => [self::decimal($a, $b), 0],
            140, 245, 249, 250, 251, 252, 255 => [0, $a],
            247, 248 => [$b, 0],
            253, 254 => self::string($a, $b),
            default => throw new UnexpectedValueException("a column of type $type is not known"),
        };
    }

    /**
     * CHAR, BINARY, UUID and INET have a length before them, ENUM and SET have none; the length may use two bits of the type.
     *
     * @return array{int, int}
     */
    private static function string(int $type, int $length): array
    {
        if (($type & 0x30) !== 0x30) {
            $length += (($type & 0x30) ^ 0x30) << 4;
            $type |= 0x30;
        }

        return $type === 247 || $type === 248 ? [$length, 0] : [0, $length < 256 ? 1 : 2];
    }

    /** Nine digits in four bytes, what is left in as many as it needs (MariaDB source, strings/decimal.c, decimal_bin_size). */
    private static function decimal(int $precision, int $scale): int
    {
        $left = [0, 1, 1, 2, 2, 3, 3, 4, 4, 4];
        $whole = $precision - $scale;

        return intdiv($whole, 9) * 4 + $left[$whole % 9] + intdiv($scale, 9) * 4 + $left[$scale % 9];
    }

    public function columns(): int
    {
        return count($this->columns);
    }

    /**
     * Where the image that begins at $at ends.
     *
     * @param  string  $bitmap  columns in the image
     */
    public function end(string $rows, int $at, string $bitmap): int
    {
        $columns = $this->present[$bitmap] ??= $this->columnsIn($bitmap);
        $width = (count($columns) + 7) >> 3;
        $nulls = substr($rows, $at, $width);
        [$steps, $rest] = $this->steps[$bitmap][$nulls] ?? $this->steps($bitmap, $columns, $nulls);
        $at += $width;
        foreach ($steps as [$skip, $prefix]) {
            $at += $skip;
            if ($prefix === 1) {
                $at += 1 + ord($rows[$at] ?? "\0");
            } elseif ($prefix === 2) {
                $at += 2 + ord($rows[$at] ?? "\0") + 256 * ord($rows[$at + 1] ?? "\0");
            } else {
                $at += $prefix + self::little(substr($rows, $at, $prefix));
            }
        }

        return $at + $rest;
    }

    /**
     * Rows of an event that is not compressed, without taking it apart.
     *
     * @param  int  $at  where its body begins
     * @param  int  $end  behind it
     *
     * @throws UnexpectedValueException
     */
    public function count(string $bytes, int $at, int $end, bool $isUpdate): int
    {
        $columns = count($this->columns);
        $width = ($columns + 7) >> 3;
        $at += $columns < 251 ? 9 : 11; // table id, flags, and how many columns there are
        $before = $after = substr($bytes, $at, $width);
        $at += $width;
        if ($isUpdate) {
            $after = substr($bytes, $at, $width);
            $at += $width;
        }

        return $this->between($bytes, $at, $end, $before, $isUpdate ? $after : null);
    }

    /**
     * Rows whose images stand between two offsets.
     *
     * @param  string  $before  columns in the image; for an update those in the one before
     * @param  string|null  $after  for an update those in the image after; else null
     *
     * @throws UnexpectedValueException
     */
    public function between(string $bytes, int $at, int $end, string $before, ?string $after): int
    {
        $isUpdate = $after !== null;
        $after ??= $before;
        $images = 0;
        $last = null;
        [$steps, $rest] = [[], 0];
        // As end() does it, in one loop: most of the time of reading a log is spent here.
        while ($at < $end) {
            $bitmap = ($images & 1) === 1 ? $after : $before;
            $columns = $this->present[$bitmap] ??= $this->columnsIn($bitmap);
            $width = (count($columns) + 7) >> 3;
            $nulls = substr($bytes, $at, $width);
            if ($nulls !== $last || $before !== $after) {
                [$steps, $rest] = $this->steps[$bitmap][$nulls] ?? $this->steps($bitmap, $columns, $nulls);
                $last = $nulls;
            }
            $at += $width;
            foreach ($steps as [$skip, $prefix]) {
                $at += $skip;
                if ($prefix === 1) {
                    $at += 1 + ord($bytes[$at] ?? "\0");
                } elseif ($prefix === 2) {
                    $at += 2 + ord($bytes[$at] ?? "\0") + 256 * ord($bytes[$at + 1] ?? "\0");
                } else {
                    $at += $prefix + self::little(substr($bytes, $at, $prefix));
                }
            }
            $at += $rest;
            $images++;
        }
        if ($at !== $end || ($isUpdate && ($images & 1) === 1)) {
            throw new UnexpectedValueException('the rows of an event do not fit its table map');
        }

        return $isUpdate ? $images >> 1 : $images;
    }

    /** @return list<int> */
    private function columnsIn(string $bitmap): array
    {
        return array_values(
            array_filter(array_keys($this->columns), fn (int $i): bool => ((ord($bitmap[$i >> 3] ?? "\0") >> ($i & 7)) & 1) === 1),
        );
    }

    /**
     * @param  list<int>  $columns
     * @return array{list<array{int, int}>, int}
     */
    private function steps(string $bitmap, array $columns, string $nulls): array
    {
        if (count($this->steps[$bitmap] ?? []) > 4096) {
            $this->steps = [];
        }
        [$steps, $fixed] = [[], 0];
        foreach ($columns as $place => $column) {
            if (((ord($nulls[$place >> 3] ?? "\0") >> ($place & 7)) & 1) === 1) {
                continue;
            }
            [$size, $prefix] = $this->columns[$column];
            $fixed += $size;
            if ($prefix > 0) {
                $steps[] = [$fixed, $prefix];
                $fixed = 0;
            }
        }

        return $this->steps[$bitmap][$nulls] = [$steps, $fixed];
    }
}
