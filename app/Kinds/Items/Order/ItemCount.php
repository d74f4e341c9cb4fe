<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Words;
use Kaiseki\Core\Mail\ItemSort;

/** How many of which sort, in words. */
final class ItemCount
{
    /** @param  list<ChosenItem>  $chosen */
    public static function of(array $chosen): string
    {
        return self::words(self::bySort($chosen));
    }

    /**
     * @param  list<ChosenItem>  $chosen
     * @return array<string, int> see ItemSort
     */
    public static function bySort(array $chosen): array
    {
        return array_count_values(array_map(fn (ChosenItem $one): string => $one->item->sort->value, $chosen));
    }

    /** @param  array<string, int>  $counts  see ItemSort */
    public static function words(array $counts): string
    {
        $words = [];
        foreach (ItemSort::cases() as $sort) {
            if (($counts[$sort->value] ?? 0) > 0) {
                $words[] = Words::count($counts[$sort->value], $sort->noun(), $sort->nouns());
            }
        }
        $last = array_pop($words);

        return $last === null ? 'nothing' : ($words === [] ? $last : implode(', ', $words)." and $last");
    }

    /**
     * What a run counted; runs of before counted messages alone.
     *
     * @param  array<string, mixed>  $outcome
     */
    public static function came(array $outcome): string
    {
        return self::words($outcome['sorts'] ?? [ItemSort::Message->value => (int) ($outcome['messages'] ?? 0)]);
    }
}
