<?php

declare(strict_types=1);

namespace App\Trail;

use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Trail\Seal;
use stdClass;

/** Entries as they are sealed: each column as the database gives it. */
final class TrailRows
{
    private const COLUMNS = [
        'id', 'at', 'sort', 'what', 'actor', 'way', 'address', 'result', 'user_id', 'request_id', 'run_id', 'workload_id',
    ];

    /** @return list<string> of the trail, qualified */
    public static function columns(): array
    {
        return array_map(fn (string $column): string => "trail.$column", self::COLUMNS);
    }

    /** The one line that is sealed, and exported. */
    public static function line(stdClass $row): string
    {
        $entry = [];
        foreach (self::COLUMNS as $column) {
            $entry[$column] = $row->{$column};
        }

        return Seal::line($entry);
    }

    /**
     * @param  list<int>  $ids
     * @return array<int, stdClass> by id
     */
    public static function of(array $ids): array
    {
        return DB::table('trail')->whereIn('id', $ids)->get(self::columns())->keyBy('id')->all();
    }
}
