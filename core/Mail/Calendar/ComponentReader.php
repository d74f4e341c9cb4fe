<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

/** Reads calendars and contacts with limits; what is broken in them is told and never fatal. */
final class ComponentReader
{
    private const DEEPEST = 10;

    private const MOST_LINES = 500_000;

    private const MOST_COMPONENTS = 50_000;

    /** Of one line; photographs are some. */
    private const LONGEST = 24 << 20;

    /** @var list<string> what is wrong, in words */
    public array $wrong = [];

    /** @var list<CalendarComponent> */
    private array $read = [];

    /** @var list<CalendarComponent> */
    private array $open = [];

    private int $components = 0;

    /** @return array{list<CalendarComponent>, list<string>} those that stand in nothing else, and what is wrong, in words */
    public static function read(string $bytes): array
    {
        $self = new self;
        $lines = 0;
        foreach (self::lines($bytes) as [$start, $end, $line]) {
            if (++$lines > self::MOST_LINES || $self->components > self::MOST_COMPONENTS) {
                $self->wrong('it is longer than any calendar; its end is not read');
                break;
            }
            $self->take($start, $end, $line);
        }
        foreach ($self->open as $open) {
            $open->end = strlen($bytes);
            $self->wrong("{$open->name} does not end");
        }

        return [$self->read, $self->wrong];
    }

    /** @return iterable<array{int, int, string}> where each begins and ends among the bytes, and the line unfolded */
    public static function lines(string $bytes): iterable
    {
        $length = strlen($bytes);
        for ($at = str_starts_with($bytes, "\xef\xbb\xbf") ? 3 : 0; $at < $length; $at = $end) {
            $start = $at;
            $line = '';
            $isSoft = null; // whether it goes on where it ends with "=", as quoted-printable does
            do {
                $newline = strpos($bytes, "\n", $at);
                $end = $newline === false ? $length : $newline + 1;
                $piece = rtrim(substr($bytes, $at, $end - $at), "\r\n");
                $line .= strlen($line) > self::LONGEST ? '' : ($line === '' || $isSoft === true ? $piece : substr($piece, 1));
                $isFolded = $end < $length && ($bytes[$end] === ' ' || $bytes[$end] === "\t");
                $isSoft ??= ! $isFolded && str_ends_with($line, '=') && stripos(substr($line, 0, 200), 'QUOTED-PRINTABLE') !== false;
                $isGoingOn = $isSoft && str_ends_with($line, '=') && $end < $length;
                $line = $isGoingOn ? substr($line, 0, -1) : $line;
                $at = $end;
            } while ($isFolded && ! $isSoft || $isGoingOn);
            yield [$start, $end, $line];
        }
    }

    private function take(int $start, int $end, string $line): void
    {
        if (trim($line) === '') {
            return;
        }
        $parsed = ContentLine::parse($line);
        $current = end($this->open);
        if ($parsed === null) {
            $this->wrong('a line has no name: '.mb_scrub(mb_strcut($line, 0, 40)));
        } elseif ($parsed->name === 'BEGIN') {
            $this->begin(strtoupper(trim($parsed->raw)), $start);
        } elseif ($parsed->name === 'END') {
            $this->end(strtoupper(trim($parsed->raw)), $end);
        } elseif ($current !== false) {
            $current->lines[] = $parsed;
        } else {
            $this->wrong('something stands outside of everything');
        }
    }

    private function begin(string $name, int $start): void
    {
        $component = new CalendarComponent(mb_strcut(mb_scrub($name), 0, 100), $start);
        $this->components++;
        $above = end($this->open);
        if ($above === false) {
            $this->read[] = $component;
        } elseif (count($this->open) < self::DEEPEST) {
            $above->components[] = $component;
        } else {
            $this->wrong('components stand in one another too deep');
        }
        $this->open[] = $component;
    }

    private function end(string $name, int $end): void
    {
        $names = array_map(fn (CalendarComponent $one): string => $one->name, $this->open);
        if (! in_array($name, $names, true)) {
            $this->wrong('an END has no BEGIN');

            return;
        }
        do {
            $closed = array_pop($this->open);
            assert($closed !== null);
            $closed->end = $end;
            $closed->name === $name || $this->wrong("{$closed->name} does not end");
        } while ($closed->name !== $name);
    }

    private function wrong(string $words): void
    {
        if (count($this->wrong) < 20 && ! in_array($words, $this->wrong, true)) {
            $this->wrong[] = $words;
        }
    }
}
