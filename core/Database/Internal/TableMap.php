<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database\Internal;

/** The body of a table map event, taken apart no further than its names. */
final class TableMap
{
    /** MariaDB source, sql/log_event.h, Table_map_log_event::TM_BIT_HAS_TRIGGERS_F: whoever wrote it ran the triggers already. */
    private const HAS_TRIGGERS = 0x4000;

    private const NUMBER_AND_FLAGS = 8;

    /** The same columns as those of another table. */
    public static function of(string $map, int $number, string $schema, string $table): string
    {
        $flags = RowLayout::little(substr($map, 6, 2)) | self::HAS_TRIGGERS;

        return self::number($number).pack('v', $flags).self::packed($schema).self::packed($table).substr($map, self::afterNames($map));
    }

    /** What ties a table map and its row events together. */
    public static function number(int $number): string
    {
        return substr(pack('P', $number), 0, 6);
    }

    private static function packed(string $name): string
    {
        return chr(strlen($name)).$name."\0";
    }

    private static function afterNames(string $map): int
    {
        $at = self::NUMBER_AND_FLAGS + ord($map[self::NUMBER_AND_FLAGS]) + 2;

        return $at + ord($map[$at]) + 2;
    }
}
