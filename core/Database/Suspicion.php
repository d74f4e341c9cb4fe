<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/**
 * How much a transaction looks like a mistake, and by what. The marks are common practice: a statement without its WHERE,
 * a large share of a table changed or removed at once, something dropped or emptied.
 */
final readonly class Suspicion
{
    /** A share of a table that a single transaction seldom touches. */
    private const LARGE_SHARE = 0.2;

    /** Rows below which a share means little. */
    private const FEW_ROWS = 20;

    private function __construct(
        /** The more, the likelier; 0 is none. */
        public float $weight,
        public string $reason,
    ) {
    }

    /**
     * @param  list<TableCount>  $tables
     * @param  array<string, int>  $sizes  SCHEMA.TABLE => rows that it had about then
     */
    public static function of(string $statement, bool $isDefinition, array $tables, array $sizes): ?self
    {
        $plain = preg_replace('~/\*(?!!).*?\*/|--[^\n]*~s', ' ', $statement) ?? $statement;
        if (preg_match('/^\s*(DROP\s+(?:TABLE|DATABASE|SCHEMA|VIEW)|TRUNCATE)\b/i', $plain, $m) === 1) {
            $of = array_map(fn (TableCount $table): string => $table->table, $tables);

            return new self(
                90,
                sprintf(
                    '%s%s: everything in it is gone.',
                    strtoupper((string) preg_replace('/\s+/', ' ', $m[1])),
                    $of === [] ? '' : ' of '.implode(', ', $of),
                ),
            );
        }
        if (preg_match('/\bDROP\s+(?:COLUMN|PARTITION)\b/i', $plain) === 1) {
            return new self(60, 'A column or a partition was dropped.');
        }
        $worst = null;
        foreach ($tables as $table) {
            $changed = $table->updated + $table->deleted;
            $size = $sizes[$table->name()] ?? null;
            $share = $size === null || $size === 0 ? null : min(1.0, $changed / $size);
            $isBare = preg_match('/\b(?:UPDATE|DELETE)\b/i', $plain) === 1 && preg_match('/\b(?:WHERE|LIMIT|JOIN)\b/i', $plain) !== 1;
            if ($changed < self::FEW_ROWS && ! ($isBare && $changed > 1)) {
                continue;
            }
            if (! $isBare && ($share === null || $share < self::LARGE_SHARE)) {
                continue;
            }
            $isMostlyGone = $table->deleted > $table->updated;
            $weight = ($isBare ? 40 : 0) + 40 * ($share ?? 0.5) + min(15.0, 3 * log10($changed)) + ($isMostlyGone ? 4 : 0);
            $words = sprintf(
                '%s rows of %s were %s%s%s.',
                number_format($changed),
                $table->table,
                $isMostlyGone ? 'deleted' : 'changed',
                $share === null ? '' : ($share > 0.98 ? ', all it had' : sprintf(', %d %% of it', (int) round(100 * $share))),
                $isBare ? ', by a statement without a WHERE' : '',
            );
            if ($worst === null || $weight > $worst->weight) {
                $worst = new self($weight, $words);
            }
        }

        return $worst;
    }
}
