<?php

declare(strict_types=1);

namespace App\Trees\Places;

/** How many spans of versions each of a list of sets lies in. */
final class SpanCount
{
    /** @var array<int, array<int, int>> history => instant => spans that begin there less those that end */
    private array $changes = [];

    /** @param  int  $until exclusive */
    public function add(int $history, int $first, int $until): void
    {
        $this->changes[$history][$first] = ($this->changes[$history][$first] ?? 0) + 1;
        $this->changes[$history][$until] = ($this->changes[$history][$until] ?? 0) - 1;
    }

    /**
     * @param  array<int, array{int, int}>  $sets  id => history and instant, oldest first
     * @return array<int, int> id => spans; sets that lie in none are left out
     */
    public function at(array $sets): array
    {
        $counts = [];
        foreach ($this->changes as $history => $at) {
            ksort($at);
            $instants = array_keys($at);
            $next = $now = 0;
            foreach ($sets as $id => [$own, $instant]) {
                if ($own !== $history) {
                    continue;
                }
                for (; $next < count($instants) && $instants[$next] <= $instant; $next++) {
                    $now += $at[$instants[$next]];
                }
                if ($now > 0) {
                    $counts[$id] = $now;
                }
            }
        }

        return $counts;
    }
}
