<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

/** Something between BEGIN and END: a calendar, an appointment, a contact. */
final class CalendarComponent
{
    /** What says nothing of what it is: who wrote it, and when it was handed on. */
    private const ASIDE = ['PRODID', 'DTSTAMP'];

    /** @var list<ContentLine> */
    public array $lines = [];

    /** @var list<self> */
    public array $components = [];

    /** Where it ends among the bytes; before that it is still open. */
    public int $end = 0;

    /** @param  int  $start  of its BEGIN among the bytes that it was read from */
    public function __construct(public readonly string $name, public readonly int $start)
    {
    }

    public function first(string $name): ?ContentLine
    {
        foreach ($this->lines as $line) {
            if ($line->name === $name) {
                return $line;
            }
        }

        return null;
    }

    /** @return list<ContentLine> */
    public function all(string $name): array
    {
        return array_values(array_filter($this->lines, fn (ContentLine $line): bool => $line->name === $name));
    }

    public function text(string $name): string
    {
        return $this->first($name)?->text() ?? '';
    }

    /** @return list<self> */
    public function of(string ...$names): array
    {
        return array_values(array_filter($this->components, fn (self $one): bool => in_array($one->name, $names, true)));
    }

    /**
     * The same for components that mean the same, in whatever order they are written. Zones are meant by their names, and what a calendar
     * says of itself is not of the objects in it.
     */
    public function canonical(): string
    {
        $rows = [];
        foreach ($this->name === 'VCALENDAR' ? [] : $this->lines as $line) {
            if (! in_array($line->name, self::ASIDE, true)) {
                $rows[] = $line->canonical();
            }
        }
        foreach ($this->components as $component) {
            if ($component->name !== 'VTIMEZONE') {
                $rows[] = $component->canonical();
            }
        }
        sort($rows);

        return "{$this->name}\2".implode("\3", $rows)."\4";
    }
}
