<?php

declare(strict_types=1);

namespace App\Trail;

use Illuminate\Database\Query\Builder;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/** The trail as JSON Lines: what is sealed of each entry, in its one spelling, with the number of its seal and the seal. */
final class TrailExport
{
    private const AT_ONCE = 1000;

    /**
     * @param  Builder  $entries  of the table trail, in no order
     * @return iterable<string> by id, each with its line end
     */
    public static function lines(Builder $entries): iterable
    {
        for ($after = 0; ; $after = (int) $ids[count($ids) - 1]) {
            $ids = (clone $entries)->where('trail.id', '>', $after)->orderBy('trail.id')->limit(self::AT_ONCE)->pluck('trail.id')->all();
            if ($ids === []) {
                return;
            }
            $rows = TrailRows::of(array_map(intval(...), $ids));
            /** @var Collection<int, \stdClass> $seals */
            $seals = DB::table('trail_seals')->whereIn('entry_id', $ids)->get()->keyBy('entry_id');
            foreach ($ids as $id) {
                $seal = $seals[$id] ?? null;
                $sealed = $seal === null ? 'null' : "{\"number\":{$seal->number},\"seal\":\"{$seal->seal}\"}";
                yield '{"entry":'.TrailRows::line($rows[$id]).",\"sealed\":$sealed}\n";
            }
        }
    }
}
