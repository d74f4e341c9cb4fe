<?php

declare(strict_types=1);

use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Timetable;
use Kaiseki\Core\Protect\Window;
use Random\Engine\Mt19937;
use Random\Randomizer;

/** Whether a minute fits a line of crontab(5), field by field, with nothing but lists, ranges, steps and stars. */
function fitsCrontab(string $line, DateTimeImmutable $minute): bool
{
    $fits = function (string $field, int $value): bool {
        foreach (explode(',', $field) as $part) {
            [$range, $step] = explode('/', $part) + [1 => '1'];
            [$from, $to] = $range === '*' ? [0, 99] : (str_contains($range, '-') ? explode('-', $range) : [$range, $range]);
            if ($value >= (int) $from && $value <= (int) $to && ($value - ($range === '*' ? 0 : (int) $from)) % (int) $step === 0) {
                return true;
            }
        }

        return false;
    };
    [$min, $hour, $day, $month, $weekday] = explode(' ', $line);
    // "If both fields are restricted, the command will be run when either field matches" (crontab(5)).
    $days =
        $day !== '*' && $weekday !== '*'
            ? $fits($day, (int) $minute->format('j')) || $fits($weekday, (int) $minute->format('w'))
            : $fits($day, (int) $minute->format('j')) && $fits($weekday, (int) $minute->format('w'));

    return $fits($min, (int) $minute->format('i')) &&
        $fits($hour, (int) $minute->format('G')) &&
        $fits($month, (int) $minute->format('n')) &&
        $days;
}

it('finds the next and the last due time as trying every minute does', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    for ($round = 0; $round < 12; $round++) {
        $line = [
            $random->getInt(0, 59),
            ['*', '*/6', '2', '3,15', '22-23'][$random->getInt(0, 4)],
            ['*', '*', '1,15'][$random->getInt(0, 2)],
            '*',
            ['*', '*', '1-5', '0'][$random->getInt(0, 3)],
        ];
        $line = implode(' ', $line);
        [$from, $until] = [['00:00', '00:00'], ['22:00', '05:00'], ['01:30', '16:00']][$random->getInt(0, 2)];
        $now = new DateTimeImmutable(
            '2026-0'.$random->getInt(1, 8).'-'.$random->getInt(10, 28).'T'.$random->getInt(10, 23).':17:00Z',
        );
        try {
            $table = Timetable::of([[$line, 'incr']], 'UTC', $from, $until, Instant::of($now));
        } catch (InvalidArgumentException) {
            continue; // such hours never hold that time; the next test is about that
        }
        $open = fn (DateTimeImmutable $at): bool => $from === $until ||
            ($from < $until
                ? $at->format('H:i') >= $from && $at->format('H:i') < $until
                : $at->format('H:i') >= $from || $at->format('H:i') < $until);
        $next = $now;
        for ($minutes = 0; $minutes < 70_000; $minutes++) {
            $next = $next->modify('+1 minute');
            if ($open($next) && fitsCrontab($line, $next)) {
                break;
            }
        }
        $found = $table->next(Instant::of($now));
        expect($found === null ? null : $found[0]->iso())->toBe(Instant::of($next)->iso(), "$line, $from-$until");
        expect($table->due(Instant::of($next->modify('-1 minute')), Instant::of($next))[0]->iso())
            ->toBe(Instant::of($next)->iso())
            ->and($table->due(Instant::of($next), Instant::of($next)))
            ->toBeNull();
    }
})->with(range(1, 6));

it('takes the fuller level where two are due at once, and the later time else', function (): void {
    $table = Timetable::of([['0 2 * * *', 'incr'], ['0 2 * * 0', 'full'], ['0 14 * * *', 'diff']], 'UTC');
    $due = fn (string $after, string $until): array => [
        ($found = $table->due(Instant::parse($after), Instant::parse($until)))[0]->iso(),
        $found[1]->name,
    ];
    expect($due('2026-11-21T12:00:00Z', '2026-11-22T03:00:00Z'))
        ->toBe([Instant::parse('2026-11-22T02:00:00Z')->iso(), 'full'])
        ->and($due('2026-11-21T12:00:00Z', '2026-11-22T15:00:00Z'))
        ->toBe([Instant::parse('2026-11-22T14:00:00Z')->iso(), 'diff']);
});

it('refuses what can never fire, and zones and times that are none', function (array $arguments, string $because): void {
    expect(fn () => Timetable::of(...$arguments))->toThrow(InvalidArgumentException::class, $because);
})->with([
    [[[['0 2 30 2 *', 'full']], 'UTC'], 'never comes'],
    [[[['0 2 * * *', 'full']], 'UTC', '10:00', '12:00'], 'never lies within'],
    [[[['61 2 * * *', 'full']], 'UTC'], 'crontab(5)'],
    [[[['often', 'full']], 'UTC'], 'crontab(5)'],
    [[[['0 2 * * *', 'biggest']], 'UTC'], 'biggest'],
    [[[['0 2 * * *', 'full']], 'Sorrel/Sound'], 'no zone'],
    [[[['0 2 * * *', 'full']], 'UTC', '22:00', null], 'beginning and an end'],
    [[[], 'UTC'], 'at least one'],
]);

it('keeps to its hours over midnight and when clocks change', function (): void {
    $window = Window::of('23:00', '04:00', 'Europe/Oslo');
    expect($window->holds(Instant::parse('2026-11-02T22:30:00Z')))
        ->toBeTrue()
        ->and($window->holds(Instant::parse('2026-11-02T21:30:00Z')))
        ->toBeFalse()
        ->and($window->holds(Instant::parse('2026-11-03T02:59:00Z')))
        ->toBeTrue()
        ->and($window->holds(Instant::parse('2026-11-03T03:00:00Z')))
        ->toBeFalse()
        ->and($window->holds(Instant::parse('2026-07-02T21:30:00Z')))
        ->toBeTrue()
        ->and($window->beginOf(Instant::parse('2026-11-03T02:00:00Z'))->iso())
        ->toBe(Instant::parse('2026-11-02T22:00:00Z')->iso());
});
