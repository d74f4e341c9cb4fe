<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

use ArrayIterator;
use DateTimeImmutable;
use Iterator;
use IteratorIterator;

/** Several rising lists of moments as one, each moment once. */
final class RisingMerge
{
    /**
     * @param  list<iterable<DateTimeImmutable>>  $lists  arrays may be in any order
     * @return iterable<DateTimeImmutable>
     */
    public static function of(array $lists): iterable
    {
        $open = array_map(self::begun(...), $lists);
        $last = null;
        while (($open = array_filter($open, fn (Iterator $one): bool => $one->valid())) !== []) {
            $least = array_reduce($open, fn (?Iterator $a, Iterator $b): Iterator => $a === null || $b->current() < $a->current() ? $b
                : $a);
            if ($last === null || $least->current() > $last) {
                yield $last = $least->current();
            }
            $least->next();
        }
    }

    /**
     * @param  iterable<DateTimeImmutable>  $list
     * @return Iterator<DateTimeImmutable>
     */
    private static function begun(iterable $list): Iterator
    {
        if (is_array($list)) {
            sort($list);
        }
        $iterator = is_array($list) ? new ArrayIterator($list) : new IteratorIterator($list);
        $iterator->rewind();

        return $iterator;
    }
}
