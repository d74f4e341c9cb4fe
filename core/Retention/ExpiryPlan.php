<?php

declare(strict_types=1);

namespace Kaiseki\Core\Retention;

use DateTimeZone;
use Kaiseki\Core\Instant;

/** Which copies the rules no longer keep, in an order in which deleting them never leaves a set without what it needs. */
final readonly class ExpiryPlan
{
    private function __construct(
        /** @var list<array{string, string}> set and store: those that rest on others come before these */
        public array $expiring,
        /** @var array<array-key, array<string, list<string>>> set => store => why the copy there stays */
        public array $staying,
    ) {
    }

    /**
     * @param  list<KeptSet>  $sets
     * @param  array<string, KeepRule|null>  $rules  store => its rule; null, or not listed: everything there stays
     */
    public static function of(array $sets, array $rules, DateTimeZone $zone): self
    {
        $byId = [];
        foreach ($sets as $set) {
            $byId[$set->id] = $set;
        }
        $staying = [];
        foreach (self::stores($sets) as $store) {
            $rule = $rules[$store] ?? null;
            $there = array_filter($byId, fn (KeptSet $set): bool => isset($set->copies[$store]));
            $kept =
                $rule === null
                    ? array_map(fn (): array => ['no rule for this store'], $there)
                    : $rule->kept(array_map(fn (KeptSet $set): Instant => $set->instant, $there), $zone);
            foreach ($kept as $id => $reasons) {
                $staying[$id][$store] = $reasons;
            }
        }
        foreach ($byId as $id => $set) {
            foreach ($set->held === null ? [] : array_keys($set->copies) as $store) {
                $staying[$id][$store][] = "held: {$set->held}";
            }
        }
        $newestFirst = $byId;
        uasort(
            $newestFirst,
            fn (KeptSet $a, KeptSet $b): int => $b->instant->microseconds <=> $a->instant->microseconds ?: strcmp($b->id, $a->id),
        );
        $order = self::dependentsFirst($newestFirst);
        $staying = self::withNeeded($byId, $order, $staying);
        $expiring = [];
        foreach ($order as $id) {
            foreach (array_keys($byId[$id]->copies) as $store) {
                if (! isset($staying[$id][$store])) {
                    $expiring[] = [$id, $store];
                }
            }
        }

        return new self($expiring, $staying);
    }

    public function expires(string $set, string $store): bool
    {
        return in_array([$set, $store], $this->expiring, true);
    }

    /** @return list<string> sets of which no copy stays */
    public function goneSets(): array
    {
        return array_values(
            array_unique(array_filter(array_column($this->expiring, 0), fn (string $id): bool => ! isset($this->staying[$id]))),
        );
    }

    /**
     * What a set that stays on a store needs stays there too where it is there; and each set that stays, or is needed by
     * one, keeps a copy that can be read if it has one.
     *
     * @param  array<array-key, KeptSet>  $byId
     * @param  list<string>  $order  each before what it needs
     * @param  array<array-key, array<string, list<string>>>  $staying
     * @return array<array-key, array<string, list<string>>>
     */
    private static function withNeeded(array $byId, array $order, array $staying): array
    {
        $neededBy = [];
        foreach ($order as $id) {
            $set = $byId[$id];
            if (! isset($staying[$id]) && ! isset($neededBy[$id])) {
                continue;
            }
            $readable = array_search(true, $set->copies, true);
            if ($readable !== false && ! self::isReadable($set, array_keys($staying[$id] ?? []))) {
                $staying[$id][$readable] = [isset($neededBy[$id]) ? "needed by {$neededBy[$id]}" : 'the only copy of it that can be read'];
            }
            foreach ($set->needs as $needed) {
                if (isset($byId[$needed])) {
                    $neededBy[$needed] ??= $id;
                    foreach (array_keys(array_intersect_key($staying[$id] ?? [], $byId[$needed]->copies)) as $store) {
                        $staying[$needed][$store] ??= ["needed by $id"];
                    }
                }
            }
        }

        return $staying;
    }

    /** @param  list<string>  $stores */
    private static function isReadable(KeptSet $set, array $stores): bool
    {
        foreach ($stores as $store) {
            if ($set->copies[$store] ?? false) {
                return true;
            }
        }

        return false;
    }

    /**
     * @param  array<array-key, KeptSet>  $sets  the newest first
     * @return list<string>
     */
    private static function dependentsFirst(array $sets): array
    {
        // Bases from the oldest on, each before what rests on it; then the other way round.
        $done = [];
        foreach (array_reverse(array_keys($sets)) as $id) {
            self::basesFirst((string) $id, $sets, $done);
        }

        return array_reverse(array_map(strval(...), array_keys($done)));
    }

    /**
     * @param  array<array-key, KeptSet>  $sets
     * @param  array<array-key, true>  $done  in order
     */
    private static function basesFirst(string $id, array $sets, array &$done): void
    {
        $path = [$id];
        while ($path !== []) {
            $at = $path[count($path) - 1];
            if (isset($done[$at])) {
                array_pop($path);

                continue;
            }
            $missing = array_values(
                array_filter(
                    $sets[$at]->needs,
                    fn (string $needed): bool => isset($sets[$needed]) && ! isset($done[$needed]) && ! in_array($needed, $path, true),
                ),
            );
            if ($missing === []) {
                $done[$at] = true;
                array_pop($path);
            } else {
                $path[] = $missing[0];
            }
        }
    }

    /**
     * @param  list<KeptSet>  $sets
     * @return list<string>
     */
    private static function stores(array $sets): array
    {
        $stores = [];
        foreach ($sets as $set) {
            $stores += $set->copies;
        }

        return array_map(strval(...), array_keys($stores));
    }
}
