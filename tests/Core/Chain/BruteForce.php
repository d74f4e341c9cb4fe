<?php

declare(strict_types=1);

namespace Tests\Core\Chain;

/**
 * The slow, obvious answer for a chain sheet (as a decoded array): every choice of copies is tried, every set walked down
 * to its full anew. Shares no code with core.
 */
final class BruteForce
{
    /** @param  array<mixed>  $sheet */
    public function __construct(private readonly array $sheet)
    {
    }

    /**
     * @param  array<string, int>|null  $needed  set id => bytes that are needed of it; all of each without it
     * @return array{point: ?string, total: ?float, passed: list<string>, before: ?string, after: ?string}
     */
    public function answer(int $wanted, bool $checked = false, ?string $site = null, ?array $needed = null): array
    {
        $states = $later = [];
        foreach ($this->sheet['sets'] as $set) {
            $at = strtotime($set['captured_at']);
            $base = $at > $wanted && $set['level'] === 'log' ? $this->base($set) : null;
            if ($at <= $wanted || ($base !== null && strtotime($base['captured_at']) <= $wanted)) {
                $states[] = [min($at, $wanted), $set['level'] === 'log' ? 0 : 1, $at, $set['id'], $set];
            } else {
                $later[$at.$set['id']] = $set;
            }
        }
        rsort($states);
        ksort($later);
        $usable = fn (array $set): bool => $this->chain($set) !== null &&
            ($set['consistent'] ?? true) &&
            ! ($set['in_doubt'] ?? false) &&
            (! $checked || $this->has($set, fn ($copy) => $copy['state'] === 'checked')) &&
            ($site === null || $this->has($set, fn ($copy) => $this->store($copy['store'])['site'] === $site));
        $good = array_values(array_filter(array_column($states, 4), $usable));
        $after = array_values(array_filter($later, $usable))[0]['id'] ?? null;
        if ($good === []) {
            return ['point' => null, 'total' => null, 'passed' => array_column($states, 3), 'before' => null, 'after' => $after];
        }
        $sized = fn (array $set): array => ['bytes' => $needed[$set['id']] ?? $set['bytes']] + $set;
        $chain = array_map($sized, $this->chain($good[0]) ?? []);
        $chain = $needed === null ? $chain : array_values(array_filter($chain, fn (array $set): bool => isset($needed[$set['id']])));

        return [
            'point' => $good[0]['id'],
            'total' => $this->cheapest($chain),
            'passed' => array_slice(array_column($states, 3), 0, (int) array_search($good[0]['id'], array_column($states, 3), true)),
            'before' => $good[1]['id'] ?? null,
            'after' => $after,
        ];
    }

    private function has(array $set, callable $fits): bool
    {
        return array_filter($this->readable($set), $fits) !== [];
    }

    /** @return list<array<mixed>> */
    private function readable(array $set): array
    {
        $isReadable = fn (array $copy): bool => ! in_array($copy['state'], ['missing', 'damaged'], true);

        return array_values(array_filter($set['copies'], $isReadable));
    }

    /** @return list<array<mixed>>|null the set and all below it; null if something is missing */
    private function chain(array $set, int $deep = 0): ?array
    {
        if ($this->readable($set) === [] || $deep > 100) {
            return null;
        }
        if (in_array((string) $set['level'], ['full', '0', 'snapshot'], true)) {
            return [$set];
        }
        $base = $this->base($set);
        if ($base === null || $base['level'] === 'snapshot' || ($base['history'] ?? '') !== ($set['history'] ?? '')) {
            return null;
        }
        $below = $this->chain($base, $deep + 1);

        return $below === null ? null : [...$below, $set];
    }

    private function base(array $set): ?array
    {
        if (($set['base'] ?? null) !== null) {
            foreach ($this->sheet['sets'] as $other) {
                if ($other['id'] === $set['base']) {
                    return $other;
                }
            }

            return null;
        }
        $best = null;
        foreach ($this->sheet['sets'] as $other) {
            $level = (string) $other['level'];
            $own = (string) $set['level'];
            $fits =
                $level !== 'snapshot' &&
                match (true) {
                    $own === 'log' => true,
                    ctype_digit($own) => $level === 'full' || (ctype_digit($level) && (int) $level < (int) $own),
                    $own === 'diff' => $level === 'full' || $level === '0',
                    default => $level !== 'log',
                };
            if (
                $fits &&
                ($other['history'] ?? '') === ($set['history'] ?? '') &&
                strtotime($other['captured_at']) < strtotime($set['captured_at']) &&
                ($best === null || strtotime($other['captured_at']) > strtotime($best['captured_at']))
            ) {
                $best = $other;
            }
        }

        return $best;
    }

    /** @param  list<array<mixed>>  $chain */
    private function cheapest(array $chain, array $media = [], float $sum = 0.0): float
    {
        if ($chain === []) {
            return $sum + array_sum($media);
        }
        $set = array_shift($chain);
        $least = INF;
        foreach ($this->readable($set) as $copy) {
            $store = $this->store($copy['store']);
            $rate = $store['read_mb_s'];
            foreach ($this->sheet['lanes'] as $lane) {
                if ($lane['from'] === $store['site'] && $lane['to'] === $this->sheet['target_site']) {
                    $rate = min($rate, $lane['mb_s']);
                }
            }
            $now = $media;
            foreach ((array) ($copy['medium'] ?? $copy['store']) as $medium) {
                $now[$copy['store'].'/'.$medium] = $store['setup_s'];
            }
            $least = min($least, $this->cheapest($chain, $now, $sum + $set['bytes'] / ($rate * 1e6)));
        }

        return $least;
    }

    private function store(string $name): array
    {
        foreach ($this->sheet['stores'] as $store) {
            if ($store['name'] === $name) {
                return $store;
            }
        }

        return [];
    }
}
