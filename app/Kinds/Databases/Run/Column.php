<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

/** A column of a table, as information_schema.columns tells it. */
final readonly class Column
{
    /**
     * @param  bool  $text  whether it has a character set: then it is compared byte for byte
     * @param  bool  $generated  whether its value follows from the others, and cannot be written
     */
    public function __construct(
        public string $name,
        public bool $text,
        public bool $generated,
    ) {
    }

    /**
     * @param  list<self>  $columns
     * @return list<string>
     */
    public static function names(array $columns): array
    {
        return array_map(fn (self $column): string => $column->name, $columns);
    }
}
