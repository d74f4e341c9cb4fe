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

    /** @return array{point: ?string, total: ?float, passed: list<string>} */
    public function answer(int $wanted, bool $checked = false, ?string $site = null): array
    {
        $sets = array_filter($this->sheet['sets'], fn (array $set): bool => strtotime($set['captured_at']) <= $wanted);
        usort($sets, fn (array $a, array $b): int => strtotime($b['captured_at']) <=> strtotime($a['captured_at']));
        $passed = [];
        foreach ($sets as $set) {
            $chain = $this->chain($set);
            if ($chain !== null && ($set['consistent'] ?? true) && ! ($set['in_doubt'] ?? false) && (! $checked || $this->has($set, fn ($copy) => $copy['state'] === 'checked'))
                && ($site === null || $this->has($set, fn ($copy) => $this->store($copy['store'])['site'] === $site))) {
                return ['point' => $set['id'], 'total' => $this->cheapest($chain), 'passed' => $passed];
            }
            $passed[] = $set['id'];
        }

        return ['point' => null, 'total' => null, 'passed' => $passed];
    }

    private function has(array $set, callable $fits): bool
    {
        return array_filter($this->readable($set), $fits) !== [];
    }

    /** @return list<array<mixed>> */
    private function readable(array $set): array
    {
        return array_values(array_filter($set['copies'], fn (array $copy): bool => ! in_array($copy['state'], ['missing', 'damaged'], true)));
    }

    /** @return list<array<mixed>>|null the set and all below it; null if something is missing */
    private function chain(array $set, int $deep = 0): ?array
    {
        if ($this->readable($set) === [] || $deep > 100) {
            return null;
        }
        if (in_array((string) $set['level'], ['full', '0'], true)) {
            return [$set];
        }
        $base = $this->base($set);
        if ($base === null || ($base['history'] ?? '') !== ($set['history'] ?? '')) {
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
            $fits = match (true) {
                ctype_digit($own) => $level === 'full' || (ctype_digit($level) && (int) $level < (int) $own),
                $own === 'diff' => $level === 'full' || $level === '0',
                default => $level !== 'log',
            };
            if ($fits && ($other['history'] ?? '') === ($set['history'] ?? '') && strtotime($other['captured_at']) < strtotime($set['captured_at']) && ($best === null || strtotime($other['captured_at']) > strtotime($best['captured_at']))) {
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
