<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use Kaiseki\Core\Proof\CheckLine;

/** What was found when a server was looked at for an order. */
final readonly class CheckedServer
{
    /** @param  list<CheckLine>  $lines  passed, failed, or a note */
    public function __construct(public array $lines)
    {
    }

    /** @return list<string> what stands in the way */
    public function blockers(): array
    {
        return array_map(fn (CheckLine $line): string => ucfirst($line->words()), CheckLine::wrong($this->lines));
    }

    /** @return list<string> what does not, but should be known */
    public function notes(): array
    {
        $notes = array_filter($this->lines, fn (CheckLine $line): bool => $line->isNote());

        return array_values(array_map(fn (CheckLine $line): string => $line->words(), $notes));
    }
}
