<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database\Internal;

/**
 * The tables that a logged statement opened: each has a table map before the statement's rows. One of which no rows follow was
 * opened for a foreign key or a trigger, and a key's CASCADE may have taken rows of it, which no log shows.
 */
final class OpenTables
{
    /** @var array<string, true> */
    private array $without = [];

    public function map(string $name): void
    {
        $this->without[$name] = true;
    }

    /**
     * @param  int  $flags  of the row event
     * @return list<string> at the end of the statement, those of which it showed no rows
     */
    public function rows(string $name, int $flags): array
    {
        unset($this->without[$name]);
        if (($flags & RowEvent::ENDS) === 0 || $this->without === []) {
            return [];
        }
        $without = array_map(strval(...), array_keys($this->without));
        $this->without = [];

        return $without;
    }

    /** @return list<string> at the end of a transaction, those of which no statement showed any */
    public function end(): array
    {
        $without = array_map(strval(...), array_keys($this->without));
        $this->without = [];

        return $without;
    }
}
