<?php

declare(strict_types=1);

namespace App\Trail;

use App\Models\TrailEntry;
use App\Models\TrailSort;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;

/** How long the trail is kept. Entries that went by it are told apart from entries that somebody took away: TrailCheck. */
final class TrailRule
{
    /** Days below which nobody can have it forgotten. */
    public const LEAST = 90;

    /** Null: for ever. */
    public static function days(): ?int
    {
        $days = DB::table('trail_rule')->orderByDesc('id')->value('days');

        return $days === null ? null : (int) $days;
    }

    /** @throws InvalidArgumentException */
    public static function parse(string $text): ?int
    {
        $isNumber = preg_match('/^\d{1,5}$/D', $text) === 1 && (int) $text >= self::LEAST;

        return $text === 'forever' ? null : ($isNumber ? (int) $text : throw new InvalidArgumentException(
            'The trail is kept for a number of days, '.self::LEAST.' at least, or "forever".',
        ));
    }

    public static function settle(?int $days): void
    {
        DB::table('trail_rule')->insert(['days' => $days, 'set_at' => now()]);
        self::tell($days);
    }

    /** That it was settled, also where root did that for the desk. */
    public static function tell(?int $days): void
    {
        TrailEntry::add('The trail is kept '.self::words($days).' from now on.', null, null, sort: TrailSort::Rule);
    }

    public static function words(?int $days): string
    {
        return $days === null ? 'for ever' : "for $days days";
    }

    /** Up to which seal entries went by the rule. */
    public static function expiredTo(): int
    {
        return (int) DB::table('trail_expired')->max('number');
    }

    /** Lets go what is older than the rule says. */
    public static function carryOut(): void
    {
        DB::statement('CALL expire_trail()');
    }
}
