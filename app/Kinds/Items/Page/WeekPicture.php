<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Catalog\NearbyAppointments;
use App\Models\BackupSet;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Kaiseki\Core\Mail\Calendar\Occurrence;

/** The week in which something takes place, a row for each day and the hours along it; with what else lies in that calendar, pale. */
final readonly class WeekPicture
{
    public const WIDTH = 720;

    public const ROW = 28;

    public const HEAD = 16;

    public const LEFT = 92;

    private const RIGHT = 10;

    /** At most so many that take place at once are drawn one below the other. */
    private const LANES = 3;

    /** The hours that are always drawn. */
    private const FROM = 7;

    private const TO = 19;

    /**
     * @param  list<array{label: string, isToday: bool}>  $days
     * @param  list<array{x: float, label: string}>  $hours
     * @param  list<array{x: float, y: int, width: float, height: int, label: string, sort: string}>  $bars  sort: own, changed, chosen or
     *                                                                                                        other
     */
    private function __construct(public array $days, public array $hours, public array $bars)
    {
    }

    /**
     * @param  list<Occurrence>  $own
     * @param  Occurrence  $chosen  one of them, whose week it is
     */
    public static function of(
        Workload $workload,
        ?BackupSet $point,
        string $mailbox,
        string $folder,
        string $title,
        array $own,
        Occurrence $chosen,
        string $zone,
    ): self {
        $monday = CarbonImmutable::createFromTimestamp($chosen->begins, $zone)->startOfWeek();
        $end = $monday->addWeek();
        $all = [];
        $others = $point === null ? [] : NearbyAppointments::of($workload, $point, $mailbox, $folder, $monday, $end, $title);
        foreach ($others as $other) {
            $all[] = [$other->begins, $other->ends, $other->summary, 'other'];
        }
        foreach ($own as $one) {
            $sort = $one->key === $chosen->key ? 'chosen' : ($one->isException ? 'changed' : 'own');
            $all[] = [$one->begins, $one->ends, $one->summary === '' ? $title : $one->summary, $sort];
        }
        [$first, $last] = self::hours($all, $monday, $end);
        $scale = (self::WIDTH - self::LEFT - self::RIGHT) / (($last - $first) * 60);
        $rows = [];
        foreach ($all as [$begins, $ends, $label, $sort]) {
            foreach (self::byDay($begins, $ends, $monday) as $row => [$from, $to]) {
                $x = round(self::LEFT + $scale * max(0, $from - $first * 60), 1);
                $rows[$row][] = ['x' => $x, 'width' => round(max(3, $scale * ($to - $from)), 1), 'label' => $label, 'sort' => $sort];
            }
        }
        $bars = array_merge([], ...array_map(self::laned(...), array_keys($rows), $rows));
        $hours = array_map(
            fn (int $hour): array => ['x' => round(self::LEFT + $scale * 60 * ($hour - $first), 1), 'label' => sprintf('%02d', $hour)],
            range($first, $last, $last - $first > 16 ? 3 : 2),
        );
        $days = array_map(fn (int $number): array => [
            'label' => $monday->addDays($number)->format('D j M'),
            'isToday' => $monday->addDays($number)->isSameDay(CarbonImmutable::createFromTimestamp($chosen->begins, $zone)),
        ], range(0, 6));

        return new self($days, $hours, $bars);
    }

    /**
     * Those of one day, so that none covers another.
     *
     * @param  list<array{x: float, width: float, label: string, sort: string}>  $bars
     * @return list<array{x: float, y: int, width: float, height: int, label: string, sort: string}>
     */
    private static function laned(int $row, array $bars): array
    {
        usort($bars, fn (array $a, array $b): int => $a['x'] <=> $b['x']);
        $ends = $lanes = [];
        foreach ($bars as $number => $bar) {
            $lane = 0;
            while ($lane < self::LANES - 1 && ($ends[$lane] ?? 0) > $bar['x']) {
                $lane++;
            }
            $ends[$lane] = max($ends[$lane] ?? 0, $bar['x'] + $bar['width']);
            $lanes[$number] = $lane;
        }
        $height = intdiv(self::ROW - 4, max(1, count($ends)));
        $top = self::HEAD + $row * self::ROW + 2;

        return array_map(
            fn (array $bar, int $lane): array => ['y' => $top + $lane * $height, 'height' => $height] + $bar,
            $bars,
            $lanes,
        );
    }

    public function height(): int
    {
        return self::HEAD + 7 * self::ROW + 1;
    }

    /**
     * @param  list<array{int, int, string, string}>  $all
     * @return array{int, int} the first hour and the last that are drawn
     */
    private static function hours(array $all, CarbonImmutable $monday, CarbonImmutable $end): array
    {
        [$first, $last] = [self::FROM, self::TO];
        foreach ($all as [$begins, $ends]) {
            if ($begins < $end->getTimestamp() && $ends > $monday->getTimestamp()) {
                foreach (self::byDay($begins, $ends, $monday) as [$from, $to]) {
                    $first = min($first, intdiv($from, 60));
                    $last = max($last, intdiv($to + 59, 60));
                }
            }
        }

        return [$first, $last];
    }

    /** @return array<int, array{int, int}> number of the day in the week => minutes of it from and to */
    private static function byDay(int $begins, int $ends, CarbonImmutable $monday): array
    {
        $days = [];
        for ($number = 0; $number < 7; $number++) {
            $day = $monday->addDays($number);
            [$from, $to] = [$day->getTimestamp(), $day->addDay()->getTimestamp()];
            if ($begins < $to && max($ends, $begins + 60) > $from) {
                $first = $begins <= $from ? 0 : self::minute($begins, $day);
                $days[$number] = [$first, $ends >= $to ? 1440 : max($first + 15, self::minute($ends, $day))];
            }
        }

        return $days;
    }

    /** Minutes since midnight on the clock of the day's zone. */
    private static function minute(int $at, CarbonImmutable $day): int
    {
        [$hour, $minute] = explode(':', CarbonImmutable::createFromTimestamp($at, $day->timezone)->format('G:i'));

        return 60 * (int) $hour + (int) $minute;
    }
}
