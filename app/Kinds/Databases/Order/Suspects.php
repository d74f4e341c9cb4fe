<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Kinds\Databases\Intake\DumpFacts;
use Kaiseki\Core\Database\Suspicion;

/** Which transaction is likely the one that did it: committed between the moment at which all was well and that at which it was noticed. */
final class Suspects
{
    private const LOOKED_AT = 20_000;

    /** Times are whole seconds, and people round them. */
    private const SLACK = 900;

    /** @var list<Suspect> the likeliest first */
    public readonly array $list;

    /** @var array<string, int> SCHEMA.TABLE => rows in the newest dump before */
    public readonly array $sizes;

    public function __construct(DatabasePoints $points, int $good, int $noticed)
    {
        $this->sizes = self::sizesOf($points, $good);
        $found = [];
        $count = 0;
        foreach ($points->transactions->all($good - self::SLACK, max($noticed, $good) + self::SLACK) as $transaction) {
            $suspicion = $transaction->isUndone
                ? null
                : Suspicion::of($transaction->statement, $transaction->isDefinition, $transaction->tables, $this->sizes);
            if ($suspicion !== null) {
                $found[] = new Suspect($transaction, $suspicion);
            }
            if (++$count >= self::LOOKED_AT) {
                break;
            }
        }
        usort($found, fn (Suspect $a, Suspect $b): int => $b->suspicion->weight <=> $a->suspicion->weight);
        $this->list = array_slice($found, 0, 20);
    }

    /** @return array<string, int> */
    private static function sizesOf(DatabasePoints $points, int $at): array
    {
        foreach ($points->dumps as $dump) {
            $counted = DumpFacts::ofSet($dump)->counted;
            if ($counted !== [] && ($dump->captured_at->getTimestamp() <= $at || $dump === $points->dumps[count($points->dumps) - 1])) {
                $sizes = [];
                foreach ($counted as $schema => $tables) {
                    foreach ($tables as $table => $of) {
                        $sizes["$schema.$table"] = $of->rows;
                    }
                }

                return $sizes;
            }
        }

        return [];
    }

    public function likeliest(): ?Suspect
    {
        return $this->list[0] ?? null;
    }
}
